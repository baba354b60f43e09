// @ts-check
// News of projects for all pages of a browser over one connection: browsers give a server six, and each page needs
// some.

const SILENT = 200_000,
  AGAIN = 2000,
  TOGETHER = 60;

/** What a page says: that it joins, still is there (for which project), or leaves.
 * @typedef {{ join?: boolean, leave?: boolean, project?: string }} Said */
/** What pages are told. @typedef {{ kind: string, news?: any }} News */

// `tell(page, said)` reaches a page. Pages say hello now and then: those that have gone without a word are forgotten.
export class Hub {
  /** @param {(page: any, said: News) => void} tell */
  constructor(tell) {
    this.tell = tell;
    /** @type {Map<any, { project: string | undefined, at: number }>} */
    this.pages = new Map();
    /** @type {EventSource | null} */
    this.source = null;
    /** @type {ReturnType<typeof setTimeout> | undefined} */
    this.opening = undefined;
  }

  /**
   * @param {any} page
   * @param {Said} said
   */
  heard(page, said) {
    const known = this.pages.get(page);
    if (said.leave) this.pages.delete(page);
    else this.pages.set(page, { project: said.project ?? known?.project, at: Date.now() });
    // Whoever joins hears how its project stands: that comes first on a new connection, for everyone.
    if (said.join || !this.source) this.open();
  }

  open() {
    clearTimeout(this.opening);
    this.opening = setTimeout(() => this.connect(), TOGETHER);
  }

  connect() {
    this.source?.close();
    this.source = null;
    for (const [page, { at }] of this.pages) if (Date.now() - at > SILENT) this.pages.delete(page);
    const projects = new Set([...this.pages.values()].map(one => one.project ?? ""));
    if (!projects.size) return;
    const query = new URLSearchParams([...projects].sort().map(one => ["project", one]));
    const source = (this.source = new EventSource(`/api/news?${query}`));
    for (const kind of ["change", "looked"]) {
      source.addEventListener(kind, event => {
        const news = JSON.parse(event.data);
        this.all({ kind, news }, news.project);
      });
    }
    source.addEventListener("open", () => this.all({ kind: "open" }));
    source.addEventListener("error", () => {
      this.all({ kind: "lost" });
      // It tries again by itself, unless it was refused.
      if (source === this.source && source.readyState === EventSource.CLOSED) setTimeout(() => this.open(), AGAIN);
    });
  }

  /**
   * @param {News} said
   * @param {string | null} project only pages of this one
   */
  all(said, project = null) {
    for (const [page, one] of this.pages) if (project === null || one.project === project) this.tell(page, said);
  }
}
