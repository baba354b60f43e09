// Types of what pages send, made from the models' JSON Schema on standard input.
import { compile } from "json-schema-to-typescript";
import { writeFileSync } from "node:fs";
import { text } from "node:stream/consumers";

const schema = JSON.parse(await text(process.stdin));
const made = await compile(schema, "Question", {
  bannerComment: "// Made from the server's models by `make assets`; not to be changed by hand.",
  additionalProperties: false,
});
writeFileSync("assets/types/models.d.ts", made);
