import type { ReactNode } from "react";

/** A table that may be wider than the window: it scrolls by itself, with the keyboard too, and the page does not. */
export function Wide({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div role="region" aria-label={label} tabIndex={0} style={{ overflowX: "auto" }}>
      {children}
    </div>
  );
}
