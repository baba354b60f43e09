// Builds everything under jaunty_lever/web/static that is not written by hand there.
import { build } from "esbuild";
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";

const out = "jaunty_lever/web/static";
const modules = "node_modules";
for (const folder of ["fonts", "vendor", "licences"]) mkdirSync(`${out}/${folder}`, { recursive: true });

const fonts = [
  ["bricolage-grotesque", "wght"],
  ["instrument-sans", "wght"],
  ["martian-mono", "standard"],
];
for (const [name, axis] of fonts) {
  for (const part of ["latin", "latin-ext"]) {
    const file = `${modules}/@fontsource-variable/${name}/files/${name}-${part}-${axis}-normal.woff2`;
    copyFileSync(file, `${out}/fonts/${name}-${part}.woff2`);
  }
  copyFileSync(`${modules}/@fontsource-variable/${name}/LICENSE`, `${out}/licences/${name}.txt`);
}

copyFileSync(`${modules}/htmx.org/dist/htmx.min.js`, `${out}/vendor/htmx.js`);
await build({
  stdin: { contents: `export { decode, encode } from "@msgpack/msgpack";`, resolveDir: "." },
  bundle: true,
  minify: true,
  format: "esm",
  target: "es2022",
  legalComments: "none",
  outfile: `${out}/vendor/msgpack.js`,
});

await build({
  stdin: {
    contents: [
      `import * as dagre from "@dagrejs/dagre";`,
      `const whole = dagre.default ?? dagre;`,
      `export const { graphlib, layout } = whole;`,
    ].join("\n"),
    resolveDir: ".",
  },
  bundle: true,
  minify: true,
  format: "esm",
  target: "es2022",
  legalComments: "none",
  outfile: `${out}/vendor/dagre.js`,
});

await build({
  entryPoints: ["assets/codemirror.js"],
  bundle: true,
  minify: true,
  format: "esm",
  target: "es2022",
  legalComments: "none",
  outfile: `${out}/vendor/codemirror.js`,
});

const names = readFileSync("assets/icons.txt", "utf8").split("\n").filter(Boolean);
const symbols = names.map(name => {
  const svg = readFileSync(`${modules}/@phosphor-icons/core/assets/regular/${name}.svg`, "utf8");
  const inner = svg.replace(/^<svg[^>]*>/, "").replace("</svg>", "");
  return `<symbol id="${name}" viewBox="0 0 256 256">${inner}</symbol>`;
});
writeFileSync(`${out}/icons.svg`, `<svg xmlns="http://www.w3.org/2000/svg">${symbols.join("\n")}</svg>\n`);

for (const [name, path] of [
  ["htmx", "htmx.org"],
  ["msgpack", "@msgpack/msgpack"],
  ["phosphor-icons", "@phosphor-icons/core"],
  ["tailwindcss", "tailwindcss"],
  ["codemirror", "@codemirror/view"],
  ["dagre", "@dagrejs/dagre"],
])
  copyFileSync(`${modules}/${path}/LICENSE`, `${out}/licences/${name}.txt`);

execFileSync(`${modules}/.bin/tailwindcss`, ["-i", "assets/app.css", "-o", `${out}/app.css`, "--minify"], {
  stdio: "inherit",
});
