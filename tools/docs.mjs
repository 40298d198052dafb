// Writes the documents that are made from the schemas. A test fails when one of them is stale.
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { prepare } from "./prepare.mjs";
import { ROOT, say } from "./run.mjs";

await prepare();
const { loadDocuments } = await import("../packages/service/dist/index.js");
const { generatedDocuments, pagesWithReference, withReference } = await loadDocuments();

mkdirSync(join(ROOT, "docs"), { recursive: true });
const documents = Object.entries(await generatedDocuments());
for (const [path, reference] of Object.entries(pagesWithReference)) {
  documents.push([path, withReference(readFileSync(join(ROOT, path), "utf8"), reference())]);
}
const { wholeProgram } = await import("../packages/cli/dist/main.js");
const { reference } = await import("../packages/cli/dist/reference/reference.js");
documents.push(["docs/yh.md", reference(await wholeProgram())]);
for (const [path, text] of documents) {
  writeFileSync(join(ROOT, path), text);
  say(`wrote ${path}`);
}
process.exit(0);
