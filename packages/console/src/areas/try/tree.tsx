/** Any JSON as a tree whose branches open and close. */
export function Tree({ name, value, isOpen = false }: { name: string; value: unknown; isOpen?: boolean }) {
  if (typeof value !== "object" || value === null) {
    return (
      <div className="break-words pl-4">
        <span className="opacity-70">{name}</span> {value === undefined ? "-" : JSON.stringify(value)}
      </div>
    );
  }
  const entries = Object.entries(value);
  if (entries.length === 0) {
    return (
      <div className="pl-4">
        <span className="opacity-70">{name}</span> {Array.isArray(value) ? "[]" : "{}"}
      </div>
    );
  }
  return (
    <details open={isOpen} className="pl-1">
      <summary className="cursor-pointer">
        {name} <span className="opacity-70">{entries.length}</span>
      </summary>
      <div className="border-base-300 border-l pl-2">
        {entries.map(([key, one]) => (
          <Tree key={key} name={key} value={one} />
        ))}
      </div>
    </details>
  );
}
