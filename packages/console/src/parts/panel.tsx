import { X } from "lucide-react";
import type { ReactNode } from "react";

/** The second column: the chosen thing, beside the list it was chosen from. */
export function Panel({ title, close, children }: { title: string; close: () => void; children: ReactNode }) {
  return (
    <article aria-label={title} className="flex flex-col gap-4 rounded-box bg-base-200 p-4">
      <header className="flex items-center justify-between">
        <h2 className="font-semibold">{title}</h2>
        <button type="button" className="btn btn-ghost btn-xs btn-square" onClick={close} aria-label="Close">
          <X size={16} aria-hidden />
        </button>
      </header>
      {children}
    </article>
  );
}

export function Fact({ label, children }: { label: string; children: ReactNode }) {
  return (
    <>
      <dt className="opacity-70">{label}</dt>
      <dd className="min-w-0 break-words">{children}</dd>
    </>
  );
}
