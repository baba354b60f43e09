// @ts-check
// The kinds of nodes by name: what draws each of them, and tells its outline. `list.js` puts them in, so that what
// goes by a kind need not know all of them.
/** @type {Record<string, any>} */
export const KINDS = {};
