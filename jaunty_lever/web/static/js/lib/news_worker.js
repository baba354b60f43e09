// @ts-check
// Shared by all pages of a browser: hears the news for them.
import { Hub } from "./hub.js";

const hub = new Hub((port, said) => port.postMessage(said));

addEventListener("connect", (/** @type {any} */ event) => {
  const [port] = event.ports;
  port.addEventListener("message", message => hub.heard(port, message.data));
  port.start();
});
