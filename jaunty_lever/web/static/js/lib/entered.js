// @ts-check
// Fields whose figure has been entered: until somebody types again, letters and Space are the page's.
export const entered = new WeakSet();
