interface ReasonProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
}

/** What is told to those to whom something is done. */
export function Reason({ label, value, onChange }: ReasonProps) {
  return (
    <label className="flex flex-col gap-1">
      {label}
      <input
        className="input input-sm w-full"
        maxLength={200}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}
