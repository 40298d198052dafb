import { z } from "zod";

/** The keys that a schema knows at a path. */
export function knownKeys(root: z.core.$ZodType, path: readonly PropertyKey[]): string[] {
  let schema: z.core.$ZodType | undefined = root;
  for (const step of path) schema = childOf(bare(schema), step);
  const found = bare(schema);
  return found instanceof z.ZodObject ? Object.keys(found.shape) : [];
}

/** Paths to all values that have one key each: not those below names that the configuration chooses, nor parts of lists. */
export function fixedPaths(schema: z.core.$ZodType, path: readonly string[] = []): string[][] {
  const found = bare(schema);
  if (found instanceof z.ZodRecord) return [];
  if (!(found instanceof z.ZodObject)) return [[...path]];
  return Object.entries(found.shape).flatMap(([key, child]) => fixedPaths(child as z.core.$ZodType, [...path, key]));
}

function childOf(schema: z.core.$ZodType | undefined, step: PropertyKey): z.core.$ZodType | undefined {
  if (schema instanceof z.ZodObject) return schema.shape[step as string];
  if (schema instanceof z.ZodRecord) return schema.valueType;
  if (schema instanceof z.ZodArray) return schema.element;
  return undefined;
}

function bare(schema: z.core.$ZodType | undefined): z.core.$ZodType | undefined {
  if (schema instanceof z.ZodDefault || schema instanceof z.ZodPrefault || schema instanceof z.ZodOptional) {
    return bare(schema.unwrap());
  }
  if (schema instanceof z.ZodNullable) return bare(schema.unwrap());
  // What is made into something else is written as it was before.
  return schema instanceof z.ZodPipe ? bare(schema.in) : schema;
}
