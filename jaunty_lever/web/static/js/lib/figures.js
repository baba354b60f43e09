// @ts-check
// Numbers in words and out of them. The server writes the same (core/document/quantity.py): one table of cases holds
// both.

/** At most so many digits behind the point, no zeros at the end, a true minus sign. @param {number} value */
export function figure(value, digits = 2) {
  const text = digits ? value.toFixed(digits).replace(/\.?0+$/, "") : value.toFixed(0);
  return (text === "-0" ? "0" : text).replace("-", "−");
}

/** A unit as it stands behind a number. @param {string | undefined} unit */
export const unitBehind = unit => (unit === "°" ? "°" : unit ? ` ${unit}` : "");

/**
 * @param {Iterable<number>} values
 * @param {string | undefined} unit
 */
export const withUnit = (values, unit, digits = 2) =>
  [...values].map(value => figure(value, digits)).join(", ") + unitBehind(unit);

/**
 * A value as it is shown while it moves: fewer digits for larger numbers.
 * @param {Iterable<number>} values
 * @param {string | undefined} unit
 */
export const spoken = (values, unit) =>
  [...values].map(value => figure(value, Math.abs(value) < 10 ? 2 : 1)).join(", ") +
  unitBehind(unit === "Hz" ? "/s" : unit);

/** A colour's red, green and blue (0..1) as #rrggbb. @param {Iterable<number>} rgb */
export const hexOf = rgb =>
  `#${[...rgb]
    .slice(0, 3)
    .map(v =>
      Math.round(Math.min(Math.max(v, 0), 1) * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;

/** Such as "12.5 turns a minute, backwards"; nothing when it stands still. @param {number} speed */
export function turningWords(speed) {
  if (!Number.isFinite(speed) || Math.abs(speed) < 0.005) return "";
  return `${figure(Math.abs(speed), Math.abs(speed) < 10 ? 2 : 1)} turns a minute${speed < 0 ? ", backwards" : ""}`;
}

/**
 * What is typed to act on what is there, as the server reads it (core/formula/quantity.py): [factor, more] for `+20`,
 * `+-5`, `*1.1`, `/2`; null for a number.
 * @param {string} text
 * @returns {[number, number] | null}
 */
export function typedStep(text) {
  const plain = text.trim(),
    by = typedNumber(plain.slice(1));
  if (plain[0] === "+") return [1, by];
  if (plain[0] === "*") return [by, 0];
  return plain[0] === "/" ? [1 / by, 0] : null;
}

/**
 * The plain number or ratio that was typed, NaN for anything else: what needs arithmetic or units is read by the
 * server.
 * @param {string} text
 */
export function typedNumber(text) {
  const plain = text.trim().replaceAll("−", "-").replaceAll(",", ".");
  const [over, under, ...more] = plain.split("/").map(part => (part.trim() ? Number(part) : NaN));
  return more.length ? NaN : under === undefined ? over : over / under;
}

/**
 * Frames that were typed: `40`, `40f`, or a time such as `1.5s`; NaN for anything else.
 * @param {string} text
 * @param {number} fps
 */
export function typedFrames(text, fps) {
  const [, plain, unit] = /** @type {string[]} */ (/^(.*?)\s*(f|s|)$/.exec(text.trim().replaceAll("\n", " ")));
  return typedNumber(plain) * (unit === "s" ? fps : 1);
}
