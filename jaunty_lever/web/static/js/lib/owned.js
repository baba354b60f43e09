// @ts-check
/**
 * State that has one owner: whoever likes may read it, and it changes by the owner's function alone.
 * @template {object} T
 * @param {T} initial
 * @returns {[Readonly<T>, (changes: Partial<T>) => void]}
 */
export function owned(initial) {
  return [initial, changes => void Object.assign(initial, changes)];
}
