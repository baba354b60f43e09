// @ts-check
// Where a key lands when it is moved and scaled: what is drawn at once, before the server has done the same
// (core/edits/keys.py: move keys). One table of cases holds both.

/**
 * @param {{ frame: number, values: number[] }} key
 * @param {{
 *   by?: number, rise?: number, stretch?: number, about?: number, scale?: number, level?: number,
 *   component?: number | null,
 * }} way
 *   `stretch` and `by` in time, about a frame; `scale` and `rise` in value, about a level, of one component or all
 * @returns {{ frame: number, values: number[] }}
 */
export function landing(key, way) {
  const { by = 0, rise = 0, stretch = 1, about = 0, scale = 1, level = 0, component = null } = way;
  return {
    frame: about + (key.frame - about) * stretch + by,
    values: key.values.map((value, c) =>
      component === null || component === c ? level + (value - level) * scale + rise : value,
    ),
  };
}
