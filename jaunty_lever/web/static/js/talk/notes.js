// @ts-check
// Short notes at the foot of the page, and messages right where something is wrong.
export function say(words, mood = "plain", action = null) {
  const place = document.getElementById("toasts");
  const note = document.createElement("div");
  note.className = `toast is-${mood}`;
  note.textContent = words;
  if (action) {
    const button = document.createElement("button");
    button.className = "link";
    button.textContent = action.words;
    button.addEventListener("click", () => {
      note.remove();
      action.run();
    });
    note.append(" ", button);
  }
  place.append(note);
  while (place.children.length > 3) place.firstElementChild.remove();
  // Long ones take longer to read.
  setTimeout(() => note.remove(), Math.max(mood === "bad" ? 9000 : action ? 7000 : 3500, words.length * 80));
}

// A note that stays while something is on its way: how far it is, once that takes a moment, and a button to stop it.
function sayOnTheWay(words, stop) {
  const note = document.createElement("div"),
    told = document.createElement("span"),
    bar = document.createElement("progress"),
    button = document.createElement("button");
  note.className = "toast is-plain";
  told.textContent = words;
  bar.max = 1;
  bar.hidden = true;
  bar.setAttribute("aria-label", words);
  button.className = "link";
  button.textContent = "Stop";
  button.hidden = true;
  button.addEventListener("click", () => {
    button.disabled = true;
    button.textContent = "Stopping …";
    stop();
  });
  note.append(told, " ", /** @type {any} */ (bar), " ", button);
  document.getElementById("toasts").append(note);
  return {
    share(value) {
      bar.hidden = button.hidden = value >= 1;
      if (value > 0) bar.value = value;
    },
    end: () => note.remove(),
  };
}

// The same for what the server knows by a name: it is asked how far that is until the note is ended, which is given
// back.
export function sayHowFar(words, name, heard = _told => {}) {
  const url = `/api/bringing/${name}`;
  const note = sayOnTheWay(words, () => fetch(url, { method: "DELETE" }));
  const asking = setInterval(async () => {
    const told = await fetch(url)
      .then(answer => answer.json())
      .catch(() => null);
    if (!told) return;
    note.share(told.share);
    heard(told);
  }, 400);
  return () => {
    clearInterval(asking);
    note.end();
  };
}

/**
 * What is wrong with a form stands in the form; without a word all is well. It is told below where there is no form.
 * @param {ParentNode | null | undefined} form
 * @param {string} [message]
 */
export function wrongIn(form, message = "") {
  const place = /** @type {HTMLElement | null} */ (form?.querySelector("[data-error]"));
  if (place) {
    place.textContent = message;
    place.hidden = !message;
  } else if (message) say(message, "bad");
}

// What the server said about a form it was sent: into the form, or out of it when all is well. Whether it was refused.
export function tellForm(event) {
  const ctx = event.detail?.ctx;
  const form = ctx?.sourceElement?.closest?.("[data-form]");
  const refused = (ctx?.response?.status ?? 0) >= 400;
  let message = "";
  if (refused) {
    try {
      message = JSON.parse(ctx.text).message;
    } catch {
      message = "That did not work.";
    }
  }
  if (form?.querySelector("[data-error]")) wrongIn(form, message);
  return refused;
}

let shown = null;

export function clearComplaint() {
  shown?.remove();
  shown = null;
  document.querySelectorAll(".is-wrong").forEach(place => place.classList.remove("is-wrong"));
}

// A message under the very field it is about; it stays until the field is changed.
export function complainAt(place, words) {
  clearComplaint();
  if (!place?.isConnected) {
    say(words, "bad");
    return;
  }
  place.classList.add("is-wrong");
  shown = document.createElement("p");
  shown.className = "complaint";
  shown.setAttribute("role", "alert");
  shown.textContent = words;
  document.body.append(shown);
  const box = place.getBoundingClientRect();
  const own = shown.getBoundingClientRect();
  const below = box.bottom + own.height + 8 < innerHeight;
  shown.style.left = `${Math.max(8, Math.min(box.left, innerWidth - own.width - 8))}px`;
  shown.style.top = `${below ? box.bottom + 4 : box.top - own.height - 4}px`;
}
