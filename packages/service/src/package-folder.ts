import { createRequire } from "node:module";
import { dirname } from "node:path";

/** Folder of this package, by its name: built files may have been put together into others elsewhere. */
export const PACKAGE_FOLDER = dirname(dirname(createRequire(import.meta.url).resolve("@yellow-harbor/service")));
