// What the scripts ask of the page's elements, whichever they turn out to be: templates and scripts are written side by
// side, so an element that carries `data-…` is known to have what is asked of it. Everything else is checked.
export {};

declare global {
  interface EventTarget {
    dataset: DOMStringMap;
    value: string;
    form: HTMLFormElement;
    elements: any;
    closest(selector: string): any;
    matches(selector: string): boolean;
    querySelector(selector: string): any;
    querySelectorAll(selector: string): NodeListOf<any>;
    setAttribute(name: string, value: string | boolean | number): void;
    removeAttribute(name: string): void;
  }
  interface Element {
    hidden: any;
    disabled: boolean;
    checked: boolean;
    selected: boolean;
    defaultSelected: boolean;
    defaultValue: string;
    open: boolean;
    width: number;
    height: number;
    options: HTMLOptionsCollection;
    focus(options?: FocusOptions): void;
    select(): void;
    close(): void;
    showModal(): void;
    getContext(kind: "2d", settings?: object): CanvasRenderingContext2D;
  }
  interface HTMLFormControlsCollection { [name: string]: any }
  interface Event { detail: any }
  interface Window { bench: any; curves: any }
  const htmx: any;
}
