import type { ReactNode } from "react";

interface SectionProps {
  readonly id: string;
  readonly title: string;
  readonly count: string;
  readonly children: ReactNode;
  /** Whether it takes the height that is left, and what is in it scrolls. */
  readonly fills?: boolean;
}

/** One block of the column of work, with its heading and how much it holds. */
export function Section({ id, title, count, children, fills = false }: SectionProps) {
  return (
    <section
      id={id}
      aria-labelledby={`${id}-title`}
      className={`scroll-mt-4 ${fills ? "flex min-h-0 flex-1 flex-col" : ""}`}
    >
      <header className="mb-2 flex items-baseline gap-3">
        <h2 id={`${id}-title`} className="font-semibold text-base">
          {title}
        </h2>
        <span className="text-sm opacity-70">{count}</span>
      </header>
      {children}
    </section>
  );
}

export function Empty({ children }: { children: ReactNode }) {
  return <p className="rounded-box border border-base-300 border-dashed px-4 py-5 text-sm opacity-80">{children}</p>;
}

export const plural = (count: number, word: string) => `${count} ${count === 1 ? word : `${word}s`}`;
