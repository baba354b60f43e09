// @ts-check
// Forms in sheets: a lever's details, the scene, copying a chain, exports.
import "../lib/own_size.js";
import { clock } from "../talk/clock.js";
import { emit } from "../talk/events.js";
import { scene } from "../talk/scene.js";
import { commitEdits } from "../talk/server.js";
import { deleteAndSay } from "../talk/deleting.js";
import { closeSheet } from "../talk/menus.js";
import { say, tellForm, wrongIn } from "../talk/notes.js";
import { figure, typedFrames, typedNumber } from "../lib/figures.js";
import { windowsEdit } from "../chain/windows.js";

function number(form, name) {
  const text = form.elements.namedItem(name).value;
  const value = typedNumber(text);
  if (!Number.isFinite(value)) throw new Error(`“${text.slice(0, 30)}” is not a number. Write one such as 12 or 0.5.`);
  return value;
}

const submits = {
  leverForm(form) {
    const edit = {
      kind: "change lever",
      lever: form.dataset.leverForm,
      name: form.elements.name.value,
      group: form.elements.group.value.trim(),
      help: form.elements.help.value,
    };
    if (form.elements.low)
      Object.assign(edit, {
        low: number(form, "low"),
        high: number(form, "high"),
        soft: form.elements.soft.value === "yes",
      });
    if (form.elements.options)
      edit.options = form.elements.options.value
        .split(",")
        .map(one => one.trim())
        .filter(Boolean);
    return [edit];
  },
  sceneForm(form) {
    const [id] = [scene.id];
    return [
      {
        kind: "change scene",
        name: form.elements.name.value,
        width: number(form, "width"),
        height: number(form, "height"),
        fps: number(form, "fps"),
        length: number(form, "length"),
        loops: form.elements.loops.value === "yes",
        plays: form.elements.plays.value === "yes",
        motion_blur: form.elements.motion_blur.value === "yes",
        least_samples: number(form, "least_samples"),
        most_samples: number(form, "most_samples"),
      },
      { kind: "set value", parameter: `${id}.perspective`, text: form.elements.perspective.value },
      {
        kind: "set value",
        parameter: `${id}.perspective_origin`,
        value: [number(form, "origin_x"), number(form, "origin_y")],
      },
      { kind: "set value", parameter: `${id}.shutter_angle`, text: form.elements.shutter_angle.value },
      { kind: "set value", parameter: `${id}.shutter_phase`, text: form.elements.shutter_phase.value },
      { kind: "set value", parameter: `${id}.background`, text: form.elements.background.value },
    ];
  },
  windowsForm(form) {
    const windows = [...form.querySelectorAll("[data-window-row]")].map((row, k) => {
      const frames = [...row.querySelectorAll("input")].map(input => {
        const { value } = input;
        const read = typedFrames(value, scene.fps);
        if (Number.isFinite(read)) return read;
        input.select();
        throw new Error(
          `“${value.slice(0, 30)}” is no number of frames. Write one such as 12, or 0.5s for half a second.`,
        );
      });
      const [start, end, fadeIn, fadeOut] = frames;
      const which = `Stretch ${k + 1}`;
      if (end < start) throw new Error(`${which} ends before it starts: ${figure(end)} comes before ${figure(start)}.`);
      if (fadeIn < 0 || fadeOut < 0) throw new Error(`${which}: a fade lasts 0 frames or more.`);
      if (fadeIn + fadeOut > end - start)
        throw new Error(
          `${which} is too short for its fades: they lie inside it, ${figure(end - start)} frames at most.`,
        );
      return frames;
    });
    return windowsEdit(form.dataset.windowsForm, windows);
  },
  projectForm(form) {
    const fields = ["author", "description", "licence", "link"];
    return [{ kind: "describe project", ...Object.fromEntries(fields.map(name => [name, form.elements[name].value])) }];
  },
  bake(form) {
    const few = form.elements.how?.value === "few";
    return [
      {
        kind: "bake",
        parameter: form.dataset.bake,
        start: number(form, "start"),
        end: number(form, "end"),
        tolerance: few ? number(form, "tolerance") : null,
      },
    ];
  },
  takeApart(form) {
    return [
      {
        kind: "take apart",
        array: form.dataset.takeApart,
        way: "baked",
        frame: Math.floor(clock.frame),
        tolerance: number(form, "tolerance"),
      },
    ];
  },
  copyChain(form) {
    const targets = [...form.querySelectorAll("input[name=target]:checked")].map(box => box.value);
    if (!targets.length) throw new Error("Tick at least one value to copy to.");
    return [
      {
        kind: "paste chain",
        source: form.dataset.copyChain,
        targets,
        in_step: form.elements.step.value === "same",
        stand: form.elements.stand?.value ?? "each",
        frame: Math.floor(clock.frame),
        replace: !form.elements.keep.checked,
      },
    ];
  },
};

document.addEventListener("submit", async event => {
  const form = /** @type {HTMLFormElement} */ (event.target);
  const name = Object.keys(submits).find(one => form.dataset[one] !== undefined);
  if (name) {
    event.preventDefault();
    try {
      const edits = submits[name](form);
      const before = scene.fps;
      const told = await commitEdits(edits);
      closeSheet();
      if (!told.working) say(`${told.label}.`);
      if (name === "sceneForm") {
        document.querySelector("[data-do=scenes]").firstChild.textContent = `${form.elements.name.value} `;
        if (scene.fps !== before) emit("frame");
        emit("size");
      }
    } catch (error) {
      wrongIn(form, error.message);
    }
  } else if (form.dataset.saveExport && form.elements.each?.value) {
    // One for each row takes a while, whatever it is: it is made like a drawing.
    event.preventDefault();
    const response = await fetch(form.dataset.saveExport.replace(/^\/api/, ""), {
      method: "POST",
      body: new FormData(form),
    });
    if (!response.ok) {
      wrongIn(form, (await response.json()).message);
      return;
    }
    wrongIn(form);
    const jobs = document.getElementById("export-jobs");
    jobs.insertAdjacentHTML("afterbegin", await response.text());
    htmx.process(jobs.firstElementChild);
  } else if (form.dataset.saveExport) {
    event.preventDefault();
    const query = new URLSearchParams(
      [...new FormData(form)]
        .filter(([name]) => !["each", "rows", "naming"].includes(name))
        .map(([name, value]) => [name, String(value)]),
    );
    const response = await fetch(`${form.dataset.saveExport}?${query}`);
    if (!response.ok) {
      wrongIn(form, (await response.json()).message);
      return;
    }
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await response.blob());
    link.download = decodeURIComponent(response.headers.get("content-disposition").split("filename*=UTF-8''")[1]);
    link.click();
    URL.revokeObjectURL(link.href);
    wrongIn(form);
  }
});

document.addEventListener("click", event => {
  const target = event.target.closest?.(
    "[data-tick-same], [data-tick-none], [data-tick-all], [data-delete-lever], [data-move-lever]",
  );
  if (!target) return;
  const form = target.closest("form");
  const boxes = [...form.querySelectorAll("input[type=checkbox][name=target], input[type=checkbox][name=parameter]")];
  if (target.dataset.tickSame !== undefined)
    for (const box of boxes)
      box.checked ||= box.value.endsWith(`.${target.dataset.tickSame}`) && !box.closest(".target").hidden;
  if (target.dataset.tickNone !== undefined) for (const box of boxes) box.checked = false;
  if (target.dataset.tickAll !== undefined) for (const box of boxes) box.checked = true;
  if (target.dataset.deleteLever) remove(target.dataset.deleteLever, form);
  if (target.dataset.moveLever) {
    const order = [...document.querySelectorAll("[data-lever]")].map(lever => lever.dataset.lever);
    const lever = form.dataset.leverForm;
    const position = Math.max(0, order.indexOf(lever) + Number(target.dataset.moveLever));
    commitEdits([{ kind: "move lever", lever, position }]).catch(error => wrongIn(form, error.message));
  }
});

// Rows of windows come and go by themselves; they are kept with the form.
document.addEventListener("click", event => {
  const target = event.target.closest?.("[data-add-window], [data-drop-window]");
  if (!target) return;
  const form = target.closest("form");
  if (target.dataset.addWindow !== undefined) {
    const row = form.querySelector("template").content.cloneNode(true);
    form.querySelector("tbody").append(row);
    form.querySelector("tbody tr:last-child input").select();
  } else {
    target.closest("tr").remove();
    form.querySelector("[data-add-window]").focus();
  }
  form.querySelector("thead").hidden = !form.querySelector("[data-window-row]");
  form.querySelector("[data-always]").hidden = Boolean(form.querySelector("[data-window-row]"));
});

function remove(lever, form) {
  deleteAndSay([{ kind: "remove lever", lever }])
    .then(told => {
      if (told) closeSheet();
    })
    .catch(error => wrongIn(form, error.message));
}

// Forms that go to the server by themselves (exports): what it says when something is wrong belongs into the form.
document.addEventListener("htmx:after:request", event => {
  if (tellForm(event) && event.detail.ctx.sourceElement?.closest?.("[data-form]")) event.detail.ctx.swap = "none";
});
