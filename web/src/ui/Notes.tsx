import { Button, Loader } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";

import { messageOf } from "../api/client";
import type { Went } from "../api/outbox";

/** Something went wrong: what, and a way on. */
export function ErrorNote({ error, again }: { error: unknown; again?: () => void }) {
  return (
    <div role="alert" style={{ padding: "1rem", border: "1px solid var(--worse)", borderRadius: 8, background: "var(--surface)", maxWidth: 720, margin: "1rem 1.4rem" }}>
      <strong style={{ color: "var(--worse)" }}>That did not work.</strong> {messageOf(error)}
      {again && (
        <div style={{ marginTop: 10 }}>
          <Button variant="default" size="xs" onClick={again}>
            Try again
          </Button>
        </div>
      )}
    </div>
  );
}

/** What was refused, in place, next to what was tried; `tone` caution for what is only to be mended first. */
export function Refusal({ text, tone = "worse" }: { text: string | null | undefined; tone?: "worse" | "caution" }) {
  return text ? (
    <p role="alert" style={{ color: `var(--${tone})`, margin: "0.4rem 0", gridColumn: "1 / -1" }}>
      {text}
    </p>
  ) : null;
}

/** What a form gave could not be sent yet: it is safe, and where it is. */
export function KeptHere({ went }: { went: Went }) {
  return went === "kept" ? (
    <p role="status" style={{ color: "var(--caution)", margin: "0.4rem 0", gridColumn: "1 / -1" }}>
      The server does not answer. What you entered is <Link to="/unsent">kept in this browser</Link> and is sent as soon as it does.
    </p>
  ) : null;
}

/** An empty screen says what to do next; `within` a page that has its heading already. */
export function Empty({ title, children, within = false }: { title: string; children: ReactNode; within?: boolean }) {
  const Heading = within ? "h2" : "h1";
  return (
    <div style={{ padding: "3rem 1rem", textAlign: "center", maxWidth: 560, margin: "0 auto" }}>
      <Heading style={{ fontSize: "1.1rem" }}>{title}</Heading>
      <div className="soft" style={{ marginTop: 8 }}>
        {children}
      </div>
    </div>
  );
}

export function Waiting({ what }: { what: string }) {
  return (
    <div style={{ padding: "2rem", display: "flex", gap: 12, alignItems: "center" }} className="soft" aria-busy="true">
      <Loader size="sm" /> {what}
    </div>
  );
}
