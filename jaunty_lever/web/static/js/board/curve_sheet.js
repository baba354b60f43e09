// @ts-check
// A curve over a passage in its sheet: points typed in figures, kept by name, or taken from those that are kept.
import { wrongIn } from "../talk/notes.js";
import { scene } from "../talk/scene.js";
import { on } from "../talk/events.js";
import { commitEdits } from "../talk/server.js";
import { sheet } from "../talk/menus.js";
import { figure, typedNumber } from "../lib/figures.js";
import { fresh } from "../lib/fresh.js";
import { drawProfiles } from "./profiles.js";

/** @returns {HTMLFormElement | null} */
const formNow = () => document.querySelector("#sheet form[data-curve-form]");
const placeOf = form => form.querySelector("[data-profile]");
const pointsOf = form => JSON.parse(placeOf(form).dataset.profileKeys).sort((a, b) => a[0] - b[0]);

// The name of an ease that is known by its points; null where it is a curve of its own.
const easeName = way =>
  way === "hold" ? way : (Object.keys(scene.eases).find(name => String(scene.eases[name]) === String(way)) ?? null);

function fill(form) {
  const points = pointsOf(form),
    body = form.querySelector("[data-points]");
  while (body.rows.length > points.length) body.lastElementChild.remove();
  while (body.rows.length < points.length) body.append(form.querySelector("template").content.cloneNode(true));
  points.forEach(([at, value, way], k) => {
    const row = body.rows[k],
      named = easeName(way);
    row.dataset.way = JSON.stringify(way);
    for (const [name, text] of [
      ["at", figure(at, 3)],
      ["value", figure(value, 4)],
    ]) {
      const input = row.querySelector(`[name=${name}]`);
      // What somebody is typing into is left alone.
      if (document.activeElement !== input || input.value === input.dataset.was) input.value = text;
      input.dataset.was = text;
    }
    const select = row.querySelector("select");
    select.value = named ?? "its own";
    select.disabled = k === points.length - 1;
  });
  form.querySelector("[data-no-points]").hidden = points.length > 0;
  form.querySelector("thead").hidden = !points.length;
  form.querySelector("[data-keep-line]").hidden = !points.length;
}

function ownValueOf(text, unit) {
  const plain = text.trim();
  const value = typedNumber(unit && plain.endsWith(unit) ? plain.slice(0, -unit.length) : plain);
  if (Number.isFinite(value)) return value;
  throw new Error(`“${text.slice(0, 30)}” is not a number. Write one such as 40 or -12${unit ? ` ${unit}` : ""}.`);
}

// A number as it is, in percent, or in the unit of what it is a share of.
function valueOf(text, form) {
  const own = form.dataset.own;
  if (own !== undefined) return ownValueOf(text, own);
  const [, plain, unit] = /^(.*?)\s*(%|px|)$/.exec(text.trim());
  const whole = Number(form.dataset.whole);
  if (unit === "px" && !whole) throw new Error("Pixels make sense only for a line whose stroke width stands still.");
  const value = typedNumber(plain) / (unit === "%" ? 100 : unit === "px" ? whole : 1);
  if (Number.isFinite(value)) return value;
  throw new Error(`“${text.slice(0, 30)}” is not a number. Write one such as 0.5 or 50%.`);
}

function read(form) {
  const points = [...form.querySelectorAll("[data-points] tr")].map(row => {
    const text = row.querySelector("[name=at]").value;
    const at = typedNumber(text.replace(/\s*%$/, ""));
    if (!(at >= 0 && at <= 100)) throw new Error(`“${text.slice(0, 30)}” is no percent of the passage: 0 to 100.`);
    const named = row.querySelector("select").value;
    return {
      frame: at,
      value: valueOf(row.querySelector("[name=value]").value, form),
      ease: named === "its own" ? JSON.parse(row.dataset.way) : named,
    };
  });
  points.sort((a, b) => a.frame - b.frame);
  const twice = points.find((point, k) => k && point.frame - points[k - 1].frame < 1e-6);
  if (twice) throw new Error(`Two points stand at ${figure(twice.frame, 3)} %. Give one of them another place.`);
  return points;
}

const drawn = (form, points, named = "") =>
  commitEdits([
    points.length
      ? { kind: "draw curve", parameter: form.dataset.curveForm, points, named }
      : { kind: "reset value", parameter: form.dataset.curveForm },
  ]);

function keep(form, doing) {
  try {
    return Promise.resolve(doing())
      .then(() => wrongIn(form))
      .catch(error => wrongIn(form, error.message));
  } catch (error) {
    wrongIn(form, error.message);
    return Promise.resolve();
  }
}

document.addEventListener("change", event => {
  const form = event.target.closest?.("form[data-curve-form]");
  if (!form || !event.target.closest("[data-points]")) return;
  // What is sent may be shown as it is kept; what is typed after it may not.
  keep(form, () => {
    const points = read(form);
    event.target.dataset.was = event.target.value;
    return drawn(form, points);
  });
});

// Half-way on to the next point where there is room, at both ends where there is none yet.
function withOneMore(points) {
  if (!points.length)
    return [
      { frame: 0, value: 0, ease: "ease-in-out" },
      { frame: 100, value: 1, ease: "ease-in-out" },
    ];
  const stops = [{ frame: 0, value: points[0].value }, ...points, { frame: 100, value: points.at(-1).value }];
  const gaps = stops.slice(1).map((stop, k) => stop.frame - stops[k].frame);
  const k = gaps.indexOf(Math.max(...gaps));
  const middle = {
    frame: Number(((stops[k].frame + stops[k + 1].frame) / 2).toFixed(2)),
    value: Number(((stops[k].value + stops[k + 1].value) / 2).toFixed(3)),
    ease: "ease-in-out",
  };
  return [...points, middle].sort((a, b) => a.frame - b.frame);
}

document.addEventListener("click", event => {
  const opener = event.target.closest?.("[data-curve-sheet]");
  if (opener) {
    sheet("curve", { parameter: opener.dataset.curveSheet }).then(shown => shown && ready());
    return;
  }
  const form = event.target.closest?.("form[data-curve-form]");
  const target = form && event.target.closest("button");
  if (!target) return;
  const { dataset } = target;
  if (dataset.addPoint !== undefined) keep(form, () => drawn(form, withOneMore(read(form))));
  else if (dataset.dropPoint !== undefined) {
    const at = target.closest("tr").rowIndex - 1;
    keep(form, () =>
      drawn(
        form,
        read(form).filter((_, k) => k !== at),
      ),
    ).then(() => form.querySelector("[data-add-point]").focus());
  } else if (dataset.takeCurve) keep(form, () => drawn(form, takenOf(form, target), dataset.name));
  else if (dataset.takeKeys)
    keep(form, () => commitEdits([{ kind: "take keys", modifier: dataset.takeKeys }])).then(() => target.remove());
  else if (dataset.keepCurve !== undefined) keepIt(form);
  else if (dataset.removeCurve)
    keep(form, () => commitEdits([{ kind: "remove curve", curve: dataset.removeCurve }])).then(again);
});

// What there is to begin with goes from 0 to 1: in a unit of its own it becomes as high as what is there.
function takenOf(form, button) {
  const points = JSON.parse(button.dataset.takeCurve);
  if (form.dataset.own === undefined || button.dataset.ready === undefined) return points;
  const high = pointsOf(form).reduce((most, [, v]) => (Math.abs(v) > Math.abs(most) ? v : most), 0) || 40;
  return points.map(point => ({ ...point, value: Number((point.value * high).toFixed(3)) }));
}

function keepIt(form) {
  const input = form.querySelector("[data-keep-name]"),
    name = input.value.trim();
  keep(form, () => {
    if (!name) {
      input.focus();
      throw new Error("Give this curve a name, then keep it.");
    }
    return commitEdits([{ kind: "keep curve", id: fresh("curve"), name, points: read(form) }]).then(again);
  });
}

const again = () => {
  const form = formNow();
  if (form) sheet("curve", { parameter: form.dataset.curveForm }).then(shown => shown && ready());
};

document.addEventListener("submit", event => {
  if (event.target.closest?.("form[data-curve-form]")) event.preventDefault();
});
document.addEventListener("keydown", event => {
  const form = event.target.closest?.("form[data-curve-form]");
  if (!form || event.key !== "Enter") return;
  if (event.target.matches("[data-keep-name]")) {
    event.preventDefault();
    keepIt(form);
  } else if (event.target.matches("[data-points] input")) {
    event.preventDefault();
    const input = /** @type {HTMLInputElement} */ (event.target);
    input.blur();
    input.focus();
  }
});

function ready() {
  fill(formNow());
  drawProfiles();
}

// The panels behind the sheet have what was kept: the sheet shows the same.
on("panels", () => {
  const form = formNow();
  if (!form) return;
  const place = placeOf(form);
  const behind = [...document.querySelectorAll(`[data-profile="${CSS.escape(place.dataset.profile)}"]`)].find(
    one => one !== place,
  );
  if (!(behind instanceof HTMLElement) || behind.dataset.profileKeys === place.dataset.profileKeys) return;
  place.dataset.profileKeys = behind.dataset.profileKeys;
  ready();
});
