import { useState } from "react";

interface SureProps {
  readonly word: string;
  /** What is asked before it is done: what will happen to whom. */
  readonly question: string;
  readonly title?: string;
  readonly onSure: () => void;
}

/** What is done with a second click alone, after it was said what it does. */
export function Sure({ word, question, title, onSure }: SureProps) {
  const [isAsked, setIsAsked] = useState(false);
  const act = () => {
    setIsAsked(!isAsked);
    if (isAsked) onSure();
  };
  return (
    <button
      type="button"
      className={`btn btn-xs ${isAsked ? "btn-warning" : ""}`}
      title={title}
      onClick={act}
      onBlur={() => setIsAsked(false)}
    >
      {isAsked ? question : word}
    </button>
  );
}
