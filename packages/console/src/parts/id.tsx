import { useState } from "react";

/** An id: shortened, whole on hover, copied on click. */
export function Id({ id }: { id: string }) {
  const [copied, setCopied] = useState(false);
  const copy = (event: React.MouseEvent) => {
    event.stopPropagation();
    void navigator.clipboard?.writeText(id).then(() => {
      setCopied(true);
      setTimeout(() => setCopied(false), 1200);
    });
  };
  return (
    <button
      type="button"
      title={`${id} (click copies)`}
      onClick={copy}
      className="cursor-copy font-mono text-xs opacity-80 hover:opacity-100"
    >
      {copied ? "copied" : `${id.slice(0, 7)}…`}
    </button>
  );
}
