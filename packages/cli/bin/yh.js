#!/usr/bin/env node
import { existsSync } from "node:fs";

// Put together into a few files it starts much faster; without that it runs as it was compiled.
const bundle = new URL("../dist/bundle/main.js", import.meta.url);
const { main } = await import(existsSync(bundle) ? bundle.href : "../dist/main.js");

await main(process.argv);
