import { existsSync } from "node:fs";
import { fileURLToPath } from "node:url";

/** Where this package lies: around the file itself, or, for a bundle of yh, where it lies beside the package of yh. */
const PLACES = ["..", "../../../service"];

const folders = PLACES.map((place) => fileURLToPath(new URL(place, import.meta.url)));

/** Folder of this package, with its version and the migrations of its database. */
export const PACKAGE_FOLDER = folders.find((folder) => existsSync(`${folder}/migrations`)) ?? (folders[0] as string);
