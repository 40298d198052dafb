import { readFileSync } from "node:fs";
import { ProblemError } from "@yellow-harbor/client";
import { parse } from "yaml";

/** An option that may be given again. */
export const gathered = (file: string, files: readonly string[]) => [...files, file];

export function readText(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? String(error);
    throw ProblemError.of("traffic-invalid", `${file} cannot be read: ${code}; check the path.`);
  }
}

interface Schema<T> {
  safeParse(values: unknown):
    | { readonly success: true; readonly data: T }
    | {
        readonly success: false;
        readonly error: {
          readonly issues: readonly { readonly path: readonly PropertyKey[]; readonly message: string }[];
        };
      };
}

/** A YAML file as a schema has it, or what is wrong with it. */
export function readYamlAs<T>(file: string, schema: Schema<T>, what: string): T {
  const text = readText(file);
  let values: unknown;
  try {
    values = parse(text);
  } catch (error) {
    throw ProblemError.of("config-invalid", `${file} is not YAML: ${(error as Error).message.split("\n")[0]}`);
  }
  const checked = schema.safeParse(values ?? {});
  if (checked.success) return checked.data;
  const fields = checked.error.issues.map(({ path, message }) => ({ path: path.join("."), message }));
  const [first] = fields;
  throw ProblemError.of("config-invalid", `${file} is no ${what}: ${first?.path} ${first?.message}.`, { fields });
}
