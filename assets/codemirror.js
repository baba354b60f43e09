// The parts of CodeMirror 6 that the formula editor uses.
export { EditorState, StateEffect } from "@codemirror/state";
export { EditorView, keymap, drawSelection, placeholder, tooltips } from "@codemirror/view";
export { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
export {
  autocompletion,
  closeBrackets,
  completionKeymap,
  completionStatus,
  startCompletion,
} from "@codemirror/autocomplete";
export { setDiagnostics } from "@codemirror/lint";
export { HighlightStyle, StreamLanguage, bracketMatching, syntaxHighlighting } from "@codemirror/language";
export { tags } from "@lezer/highlight";
