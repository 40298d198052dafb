// The package of yh with service and console inside: few files, and two dependencies that cannot be put into them.
import { cpSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "../run.mjs";
import { thirdParty } from "./third-party.mjs";

/** The bundle as it is now: files of former builds lie beside it for services that still run them. */
function bundleFiles() {
  const { files } = JSON.parse(readFileSync(join(ROOT, "packages/cli/dist/bundle/files.json"), "utf8"));
  return files;
}

/** Stages the package and returns its folder. */
export function stageYh(staging, version) {
  const to = join(staging, "yh");
  for (const folder of ["cli/bin", "cli/dist/bundle", "console/dist", "service"])
    mkdirSync(join(to, folder), { recursive: true });
  cpSync(join(ROOT, "packages/cli/bin"), join(to, "cli/bin"), { recursive: true });
  for (const file of bundleFiles())
    cpSync(join(ROOT, "packages/cli/dist/bundle", file), join(to, "cli/dist/bundle", file));
  cpSync(join(ROOT, "packages/console/dist/app"), join(to, "console/dist/app"), { recursive: true });
  cpSync(join(ROOT, "packages/service/migrations"), join(to, "service/migrations"), { recursive: true });
  for (const shipped of ["deploy", "monitoring"]) cpSync(join(ROOT, shipped), join(to, shipped), { recursive: true });
  for (const file of ["LICENSE", "CHANGELOG.md"]) cpSync(join(ROOT, file), join(to, file));
  cpSync(join(ROOT, "packages/cli/README.md"), join(to, "README.md"));
  writeFileSync(join(to, "THIRD-PARTY.txt"), `${thirdParty()}\n`);
  const { dependencies: own } = JSON.parse(readFileSync(join(ROOT, "packages/service/package.json"), "utf8"));
  writeFileSync(join(to, "service/package.json"), `${JSON.stringify({ version, type: "module" }, null, 2)}\n`);
  const packed = {
    name: "yellow-harbor",
    version,
    description:
      "The connection side of online games: lobbies, rooms, travel and dedicated instances. Service, console and yh.",
    license: "MIT",
    type: "module",
    bin: { yh: "cli/bin/yh.js" },
    engines: { node: ">=20.19" },
    dependencies: { "better-sqlite3": own["better-sqlite3"], tinypool: own.tinypool },
  };
  writeFileSync(join(to, "package.json"), `${JSON.stringify(packed, null, 2)}\n`);
  return to;
}
