import type { ReactNode } from "react";
import { useInAddress } from "../live/use-address.ts";

/** What a list is narrowed down by; the address holds each. */
export function Filters({ children }: { children: ReactNode }) {
  return <div className="mb-3 flex shrink-0 flex-wrap gap-2 text-sm">{children}</div>;
}

interface ChoiceProps {
  readonly name: string;
  readonly label: string;
  /** Values with what they are called. */
  readonly options: readonly (readonly [value: string, label: string])[];
  readonly any?: string;
}

/** One of several values, or any. */
export function Choice({ name, label, options, any = "any" }: ChoiceProps) {
  const [value, set] = useInAddress(name);
  return (
    <label className="flex items-center gap-2">
      {label}
      <select className="select select-sm w-28 sm:w-40" value={value} onChange={(event) => set(event.target.value)}>
        <option value="">{any}</option>
        {options.map(([one, text]) => (
          <option key={one} value={one}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Words that have to occur. */
export function Contains({ placeholder }: { placeholder: string }) {
  const [value, set] = useInAddress("find");
  return (
    <input
      type="search"
      aria-label={placeholder}
      placeholder={placeholder}
      className="input input-sm w-full sm:w-64"
      value={value}
      onChange={(event) => set(event.target.value)}
    />
  );
}
