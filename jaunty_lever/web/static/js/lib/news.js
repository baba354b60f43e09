// @ts-check
// News of a project. All pages of a browser hear them over one connection, which a worker holds that they share;
// where there is none, one of the pages, and another one when that goes.
import { Hub } from "./hub.js";

/** @typedef {import("./hub.js").Said} Said */
/** @typedef {(kind: string, news: any) => void} Told */

const STILL_HERE = 60_000;
const page = crypto.randomUUID?.() ?? String(Math.random());

/**
 * `told(kind, news)`: kind is `change`, `looked`, `open` or `lost`.
 * @param {string} project
 * @param {Told} told
 */
export function hear(project, told) {
  const say = "SharedWorker" in window ? byWorker(told) : byPages(told);
  say({ join: true, project });
  setInterval(() => say({ project }), STILL_HERE);
  addEventListener("pagehide", () => say({ leave: true }));
  // A page that comes back out of the browser's memory has missed what was told meanwhile.
  addEventListener("pageshow", event => {
    if (event.persisted) say({ join: true, project });
  });
}

/** @param {Told} told */
function byWorker(told) {
  const { port } = new SharedWorker(new URL("./news_worker.js", import.meta.url), { type: "module", name: "news" });
  port.addEventListener("message", ({ data }) => told(data.kind, data.news));
  port.start();
  return (/** @type {Said} */ said) => port.postMessage(said);
}

/** @param {Told} told */
function byPages(told) {
  const channel = new BroadcastChannel("jaunty-lever news");
  /** @type {Hub | null} */
  let hub = null;
  /** @type {Said | null} */
  let joined = null;
  const take = (/** @type {string} */ to, /** @type {import("./hub.js").News} */ said) => {
    if (to === page) told(said.kind, said.news);
    else channel.postMessage({ to, said });
  };
  channel.addEventListener("message", ({ data }) => {
    if (data.to === page) told(data.said.kind, data.said.news);
    else if (data.from && hub) hub.heard(data.from, data.said);
    // Another page hears for all from now on: it has to know of this one.
    else if (data.who && joined) channel.postMessage({ from: page, said: joined });
  });
  const say = (/** @type {Said} */ said) => {
    joined = said.leave ? null : { ...said, join: true };
    if (hub) hub.heard(page, said);
    else channel.postMessage({ from: page, said });
  };
  // Held for as long as the page is there.
  navigator.locks.request("jaunty-lever news", () => {
    hub = new Hub(take);
    channel.postMessage({ who: true });
    if (joined) hub.heard(page, joined);
    return new Promise(() => {});
  });
  return say;
}
