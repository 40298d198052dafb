import { z } from "zod";
import { CAPACITY_MAX, CAPACITY_MIN, PORT_MAX } from "../limits.ts";

export const isUnique = (list: readonly string[]) => new Set(list).size === list.length;

export const Ms = (value: number, about: string, { min = 1, max = 86_400_000 } = {}) =>
  z
    .int()
    .min(min)
    .max(max)
    .default(value)
    .meta({ description: `${about} In milliseconds.` });

export const Capacity = z.int().min(CAPACITY_MIN).max(CAPACITY_MAX);
export const Port = z.int().min(1).max(PORT_MAX);

/** What may be left out of a file, or be said to be null there; the rules that come of it say null then. */
export const orNull = <S extends z.ZodType>(schema: S) =>
  schema.nullish().transform((value): z.output<S> | null => value ?? null);

/** Configuration is frozen once it was read. */
export type DeepReadonly<T> = T extends readonly (infer Item)[]
  ? readonly DeepReadonly<Item>[]
  : T extends object
    ? { readonly [Key in keyof T]: DeepReadonly<T[Key]> }
    : T;
