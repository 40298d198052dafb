import { CAPACITY_MAX, CAPACITY_MIN, PORT_MAX } from "@yellow-harbor/protocol";
import { z } from "zod";

export const isUnique = (list: readonly string[]) => new Set(list).size === list.length;

export const Ms = (preset: number, about: string, { min = 1, max = 86_400_000 } = {}) =>
  z
    .int()
    .min(min)
    .max(max)
    .default(preset)
    .meta({ description: `${about} In milliseconds.` });

export const Capacity = z.int().min(CAPACITY_MIN).max(CAPACITY_MAX);
export const Port = z.int().min(1).max(PORT_MAX);
