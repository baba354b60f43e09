// @ts-check
// What comes nearest to words that are mistyped.

/**
 * How many letters have to be added, left out, changed or swapped with their neighbour to get from one word to another.
 * @param {string} one
 * @param {string} other
 */
export function apart(one, other) {
  const rows = [Array.from({ length: other.length + 1 }, (_, k) => k)];
  for (let i = 1; i <= one.length; i += 1) {
    rows.push([i]);
    for (let j = 1; j <= other.length; j += 1) {
      const same = one[i - 1] === other[j - 1] ? 0 : 1;
      let least = Math.min(rows[i - 1][j] + 1, rows[i][j - 1] + 1, rows[i - 1][j - 1] + same);
      if (i > 1 && j > 1 && one[i - 1] === other[j - 2] && one[i - 2] === other[j - 1])
        least = Math.min(least, rows[i - 2][j - 2] + 1);
      rows[i].push(least);
    }
  }
  return rows[one.length][other.length];
}

/**
 * The places of the texts that come nearest to some words, no more than a few, and none that has hardly a letter in
 * common.
 * @param {string[]} words
 * @param {string[]} texts
 */
export function nearest(words, texts, most = 4) {
  const asked = words.filter(word => word.length > 2);
  if (!asked.length) return [];
  /** @type {Map<string, number>} */
  const known = new Map();
  const far = (/** @type {string} */ word, /** @type {string} */ other) => {
    const key = `${word} ${other}`;
    let share = known.get(key);
    if (share === undefined) known.set(key, (share = apart(word, other) / Math.max(word.length, other.length)));
    return share;
  };
  const told = texts.map((text, place) => {
    const own = [...new Set(text.split(/[^\p{L}\p{N}-]+/u))].filter(one => one.length > 2);
    return { place, away: Math.max(...asked.map(word => Math.min(1, ...own.map(one => far(word, one))))) };
  });
  const best = Math.min(0.4, ...told.map(({ away }) => away));
  return told
    .filter(({ away }) => away <= Math.min(best + 0.1, 0.4))
    .sort((a, b) => a.away - b.away)
    .slice(0, most)
    .map(({ place }) => place);
}
