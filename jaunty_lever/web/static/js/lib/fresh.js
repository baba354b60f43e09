// @ts-check
/** An id for something that is about to be made. @param {string} prefix */
export const fresh = prefix => `${prefix}-${Math.random().toString(36).slice(2, 10).padEnd(8, "0")}`;
