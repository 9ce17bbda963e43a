import { NoLink } from "../api/client";

/** What stands while a screen has nothing to show yet: that it opens, or why it does not. */
export function Opening({ of = [] }: { of?: { error: Error | null }[] }) {
  const error = of.find((q) => q.error)?.error;
  if (!error) return <p className="soft">Loading…</p>;
  return (
    <div className="note error" role="alert">
      {error.message}{" "}
      {error instanceof NoLink
        ? "What you typed is kept; open this again when it answers."
        : "Choose another on the shelf, or open this again."}
    </div>
  );
}
