// @ts-check
// Shared by all pages of a browser: hears the news for them.
import { Hub } from "./hub.js";

const hub = new Hub((/** @type {MessagePort} */ port, said) => port.postMessage(said));

addEventListener("connect", (/** @type {any} */ event) => {
  const [port] = event.ports;
  port.addEventListener("message", (/** @type {MessageEvent} */ message) => hub.heard(port, message.data));
  port.start();
});
