// @ts-check
// The formula editor: names and functions completed, mistakes underlined, the curve redrawn while typing.
import {
  EditorState,
  EditorView,
  HighlightStyle,
  StreamLanguage,
  autocompletion,
  bracketMatching,
  closeBrackets,
  completionKeymap,
  completionStatus,
  defaultKeymap,
  drawSelection,
  history,
  historyKeymap,
  keymap,
  setDiagnostics,
  syntaxHighlighting,
  tags,
} from "../../vendor/codemirror.js";
import { choice } from "../talk/choice.js";
import { fresh } from "../lib/fresh.js";
import { focusOn } from "../talk/focus.js";
import { scene } from "../talk/scene.js";
import { requestFrames, commitEdits, onEach, withScene } from "../talk/server.js";
import { chooseParameter } from "../talk/choosing.js";
import { say } from "../talk/notes.js";

const pad = document.getElementById("formula-pad");
const told = pad.querySelector("[data-formula-told]");
const shadow = pad.querySelector("[data-formula-host]").attachShadow({ mode: "open" });
const VALUE = /^(base|t|f|fps|length|i|n|u|row|col|pi|true|false)\b/i;

let open = null;

const language = StreamLanguage.define({
  token(stream) {
    if (stream.eatSpace()) return null;
    if (stream.match(/^#([0-9a-fA-F]{8}|[0-9a-fA-F]{6}|[0-9a-fA-F]{3,4})(?![\w])/)) return "atom";
    if (stream.match(/^#.*/)) return "comment";
    if (stream.match(/^"[^"]*"(\s*\.\s*\w+)+/) || stream.match(/^\$(\w+|"[^"]*")/)) return "variableName";
    if (stream.match(/^"[^"]*"?/)) return "string";
    if (stream.match(/^(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?[a-zA-Z%]*/)) return "number";
    if (stream.match(/^(if|then|else|and|or|not)\b/)) return "keyword";
    if (stream.match(/^[\p{L}_][\p{L}\p{N}_]*(?=\s*\()/u)) return "typeName";
    if (stream.match(VALUE)) return "propertyName";
    if (stream.match(/^[\p{L}_][\p{L}\p{N}_]*(\.[\p{L}_][\p{L}\p{N}_]*)+/u)) return "variableName";
    if (stream.match(/^[\p{L}_][\p{L}\p{N}_]*/u)) return "name";
    stream.next();
    return "operator";
  },
});

const paint = HighlightStyle.define([
  { tag: tags.comment, color: "#5F6B74", fontStyle: "italic" },
  { tag: tags.number, color: "#22303C" },
  { tag: [tags.atom, tags.string], color: "#4A7337" },
  { tag: tags.keyword, color: "#22303C", fontWeight: "600" },
  { tag: tags.typeName, color: "#8F5F12" },
  { tag: tags.propertyName, color: "#22303C", fontWeight: "600" },
  { tag: tags.variableName, color: "#1F6F78" },
]);

const look = EditorView.theme({
  "&": { fontSize: "13px", backgroundColor: "#fff", border: "1px solid #D9D2C3", borderRadius: "4px", height: "104px" },
  "&.cm-focused": { outline: "2px solid #8F5F12", outlineOffset: "-1px" },
  ".cm-scroller": {
    fontFamily: "'Martian Mono Variable', 'Martian Mono', monospace",
    lineHeight: "1.55",
    fontStretch: "80%",
  },
  ".cm-content": { padding: "6px 4px", caretColor: "#8F5F12" },
  ".cm-cursor": { borderLeftColor: "#8F5F12", borderLeftWidth: "2px" },
  ".cm-lintRange-error": {
    backgroundImage: "none",
    textDecoration: "underline wavy #A93C28 1.5px",
    textUnderlineOffset: "3px",
  },
  ".cm-lintPoint-error:after": { borderBottomColor: "#A93C28" },
  ".cm-matchingBracket": { backgroundColor: "#EFE3CC !important" },
  ".cm-tooltip": {
    border: "1px solid #D9D2C3",
    backgroundColor: "#FFFDF8",
    borderRadius: "4px",
    boxShadow: "0 8px 28px rgb(34 48 60 / 0.2)",
  },
  ".cm-tooltip-autocomplete ul": {
    fontFamily: "'Instrument Sans Variable', 'Instrument Sans', sans-serif",
    fontSize: "13px",
    maxHeight: "180px",
  },
  ".cm-tooltip-autocomplete ul li": { padding: "3px 10px" },
  ".cm-tooltip-autocomplete ul li[aria-selected]": { backgroundColor: "#8F5F12", color: "#FFFDF8" },
  ".cm-completionDetail": { color: "inherit", opacity: "0.7", fontStyle: "normal" },
  ".cm-completionMatchedText": { textDecoration: "none", fontWeight: "700" },
  ".cm-completionInfo": {
    padding: "6px 10px",
    maxWidth: "260px",
    fontFamily: "'Instrument Sans Variable', sans-serif",
  },
  ".cm-tooltip-lint": { display: "none" },
});

function complete(context) {
  const word = context.matchBefore(/(\$?"[^"\n]*"?|\$?[\p{L}_][\p{L}\p{N}_]*|\$)(\.[\p{L}\p{N}_]*)*$/u);
  if (!open?.words || (!word && !context.explicit)) return null;
  if (word && /^\d/.test(context.state.sliceDoc(Math.max(0, word.from - 1), word.from))) return null;
  const steps = [...context.state.doc.toString().matchAll(/^\s*([\p{L}_][\p{L}\p{N}_]*)\s*=(?!=)/gmu)].map(
    found => found[1],
  );
  const { names, functions, values } = open.words;
  const options = [
    ...steps.map(label => ({ label, detail: "step", boost: 3 })),
    ...names.map(({ name, kind, now }) => ({ label: name, detail: now, boost: kind === "lever" ? 2 : 0 })),
    ...functions.map(({ name, signature, help }) => ({
      label: name,
      detail: signature.slice(name.length),
      info: help,
      boost: 1,
      apply: (view, _, from, to) =>
        view.dispatch({ changes: { from, to, insert: `${name}()` }, selection: { anchor: from + name.length + 1 } }),
    })),
    ...values.map(({ name, help }) => ({ label: name, info: help, boost: 1 })),
  ];
  return { from: word ? word.from : context.pos, options, validFor: /^[$"]?[\p{L}\p{N}_." ]*$/u };
}

// The function in whose brackets the cursor stands, and which of its parts is next.
function signature(state) {
  const text = state.sliceDoc(0, state.selection.main.head);
  let level = 0,
    part = 0;
  for (let k = text.length - 1; k >= 0; k--) {
    if (text[k] === ")") level += 1;
    else if (text[k] === "," && level === 0) part += 1;
    else if (text[k] === "(" && level-- === 0) {
      const name = text
        .slice(0, k)
        .match(/([a-zA-Z]+)\s*$/)?.[1]
        ?.toLowerCase();
      const found = open.words?.functions.find(one => one.name === name);
      if (found) return { ...found, part };
      level = 0;
      part = 0;
    }
  }
  return null;
}

function tell(mistake) {
  told.replaceChildren();
  told.classList.toggle("is-wrong", Boolean(mistake));
  if (mistake) {
    told.textContent = mistake.message;
    return;
  }
  const found = signature(open.view.state);
  if (!found) {
    told.textContent = "All is well. The curve below follows while you type.";
    return;
  }
  const [name, inside] = [found.name, found.signature.slice(found.name.length + 1, -1).split(", ")];
  told.append(`${name}(`);
  inside.forEach((part, k) => {
    const piece = document.createElement(k === Math.min(found.part, inside.length - 1) ? "b" : "span");
    piece.textContent = part;
    told.append(piece, k < inside.length - 1 ? ", " : "");
  });
  told.append(`)  ${found.help}`);
}

const edit = text => ({
  kind: "write formula",
  ...(open.modifier
    ? { modifier: open.modifier }
    : { parameter: open.parameter, component: open.component, id: open.id }),
  text,
});

let waiting = null;
let checking = null;

function check() {
  waiting = open.view.state.doc.toString();
  checking ??= pump().finally(() => {
    checking = null;
  });
}

async function pump() {
  while (waiting !== null && open) {
    const text = waiting;
    waiting = null;
    const response = await fetch(`/api/projects/${scene.project}/scenes/${scene.id}/formula/check`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ parameter: open.parameter, modifier: open.modifier, text }),
    }).catch(() => null);
    if (!open || !response) return;
    const answer = await response.json();
    if (!open || waiting !== null) continue;
    if (!response.ok) {
      tell(answer);
      continue;
    }
    const mistake = answer.mistake;
    open.mistake = mistake;
    const most = open.view.state.doc.length;
    const marks = mistake
      ? [
          {
            from: Math.min(mistake.start, most),
            to: Math.min(mistake.end, most),
            severity: "error",
            message: mistake.message,
          },
        ]
      : [];
    open.view.dispatch(setDiagnostics(open.view.state, marks));
    tell(mistake);
    // While a mistake stands in the text, the last good result stays in view.
    if (!mistake && text !== open.stored) requestFrames(withScene(onEach([edit(text)])));
  }
}

export function openFormula(parameter, modifier = null, typed = null, component = null) {
  leave(false);
  pad.hidden = false;
  pad.querySelector("[data-formula-of]").textContent = "";
  open = { parameter, component, modifier, id: fresh("m"), words: null, stored: null, mistake: null };
  const mine = open;
  open.view = new EditorView({
    parent: shadow,
    root: shadow,
    state: EditorState.create({
      doc: typed ?? "",
      selection: { anchor: (typed ?? "").length },
      extensions: [
        history(),
        drawSelection(),
        bracketMatching(),
        closeBrackets(),
        language,
        syntaxHighlighting(paint),
        look,
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ "aria-label": "Formula", spellcheck: "false" }),
        // Its keys stand below, after ours: else Escape would be taken by a list that is only about to open.
        autocompletion({
          override: [complete],
          icons: false,
          aboveCursor: true,
          interactionDelay: 0,
          defaultKeymap: false,
        }),
        keymap.of([
          {
            key: "Mod-Enter",
            run: () => {
              commit();
              return true;
            },
          },
          {
            key: "Escape",
            run: view => {
              if (completionStatus(view.state) === "active") return false;
              leave(true);
              return true;
            },
          },
          ...completionKeymap,
          ...historyKeymap,
          ...defaultKeymap,
        ]),
        // Left to the browser, typing over coloured text would carry its colour along as an inline style.
        EditorView.domEventHandlers({
          beforeinput: (event, view) => {
            if (event.inputType !== "insertText" || view.state.selection.main.empty || event.isComposing) return false;
            event.preventDefault();
            view.dispatch(view.state.replaceSelection(event.data ?? ""), {
              userEvent: "input.type",
              scrollIntoView: true,
            });
            return true;
          },
        }),
        EditorView.updateListener.of(update => {
          if (update.docChanged) check();
          else if (update.selectionSet && open && !open.mistake) tell(null);
        }),
      ],
    }),
  });
  open.view.focus();
  tell(null);
  const query = new URLSearchParams({ parameter, ...(component === null ? {} : { component }) });
  fetch(`/api/projects/${scene.project}/scenes/${scene.id}/formula/words?${query}`)
    .then(response => response.json())
    .then(words => {
      if (open !== mine) return;
      if (words.message) {
        say(words.message, "bad");
        leave(false);
        return;
      }
      open.words = words;
      open.stored = words.text;
      open.modifier = modifier ?? words.modifier;
      pad.querySelector("[data-formula-of]").textContent = words.label;
      if (typed === null) {
        open.view.dispatch({
          changes: { from: 0, to: open.view.state.doc.length, insert: words.text },
          selection: { anchor: words.text.length },
        });
      }
      check();
    });
  if (choice.parameter !== parameter) chooseParameter(parameter);
}

function leave(undo) {
  if (!open) return;
  open.view.destroy();
  open = null;
  pad.hidden = true;
  focusOn();
  if (undo) requestFrames([]);
}

function commit() {
  const text = open.view.state.doc.toString();
  if (text.trim() === (open.stored ?? "").trim() && open.modifier) {
    leave(true);
    return;
  }
  commitEdits(onEach([edit(text)]))
    .then(() => {
      leave(false);
      focusOn("#chain .formula-text");
    })
    .catch(error => tell({ message: error.message }));
}

pad.querySelector("[data-formula-keep]").addEventListener("click", commit);
pad.querySelector("[data-formula-leave]").addEventListener("click", () => leave(true));

document.addEventListener("click", event => {
  const button = event.target.closest?.("[data-formula]");
  if (button) openFormula(button.dataset.of, button.dataset.formula);
});

// A field whose text begins with = becomes a formula.
document.addEventListener(
  "input",
  event => {
    const input = event.target.closest?.("[data-field] [data-input]");
    if (!input || !input.value?.startsWith("=") || input.matches("select")) return;
    const text = input.value.slice(1);
    input.value = input.defaultValue;
    input.dispatchEvent(new KeyboardEvent("keydown", { key: "Escape", bubbles: true }));
    // Typed into one component it is that one's.
    const component = input.dataset.component ? Number(input.dataset.component) : null;
    openFormula(input.closest("[data-field]").dataset.parameter, null, text.trimStart(), component);
  },
  true,
);
