import { Button } from "@mantine/core";
import { useEffect, useState } from "react";

import { ErrorNote } from "./Notes";

/** A page whose scripts could not be fetched, as nobody answers. */
export class UnreachedPage extends Error {}

const answers = () => fetch("/api/health", { cache: "no-store" }).then((r) => r.ok).catch(() => false);

/** Fetch a page. Where the server is gone that is said; where it only no longer has these scripts, the router loads the newer ones. */
export async function fetched<T>(load: () => Promise<T>): Promise<T> {
  try {
    return await load();
  } catch (error) {
    throw (await answers()) ? error : new UnreachedPage();
  }
}

/** Instead of a page that failed. */
export function PageFault({ error }: { error: unknown }) {
  return error instanceof UnreachedPage ? <Unreached /> : <ErrorNote error={error} again={() => window.location.reload()} />;
}

/** The page comes by itself once the server answers: loading it before would leave nothing but the browser's own words. */
function Unreached() {
  const [asked, setAsked] = useState(0);
  useEffect(() => {
    const look = () => void answers().then((yes) => yes && window.location.reload());
    if (asked) look();
    const timer = setInterval(look, 2000);
    return () => clearInterval(timer);
  }, [asked]);
  return (
    <div role="alert" style={{ padding: "1rem", border: "1px solid var(--caution)", borderRadius: 8, background: "var(--surface)", maxWidth: 720, margin: "1rem 1.4rem" }}>
      <h1 style={{ fontSize: "1.1rem", margin: 0 }}>This page could not be fetched: the server does not answer</h1>
      <p style={{ margin: "8px 0" }}>What you entered is kept in this browser and goes out as soon as it does; the page comes then, too.</p>
      <Button variant="default" size="xs" onClick={() => setAsked((n) => n + 1)}>
        Try again
      </Button>
    </div>
  );
}
