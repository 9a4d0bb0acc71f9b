import { useEffect, useRef } from "react";

/**
 * The page one is on, for those who do not see it: the title of the window says what its heading says, and a change
 * of page moves the cursor to the heading, unless the page itself has put it somewhere.
 */
export function usePage(path: string): void {
  const first = useRef(true);
  useEffect(() => {
    const main = document.getElementById("content");
    if (!main) return;
    // when the application is opened, the browser itself begins at the top
    let moved = first.current;
    first.current = false;
    let frame = 0;
    const look = () => {
      frame = 0;
      const heading = main.querySelector("h1");
      const words = heading?.dataset["title"] ?? heading?.textContent.trim();
      if (!heading || !words) return;
      document.title = `${words} · Assayer`;
      if (moved) return;
      moved = true;
      if (main.contains(document.activeElement) || document.querySelector('[role="dialog"]')) return;
      heading.tabIndex = -1;
      heading.focus({ preventScroll: true });
    };
    const later = () => {
      if (!frame) frame = requestAnimationFrame(look);
    };
    later();
    const watching = new MutationObserver(later);
    watching.observe(main, { childList: true, subtree: true, characterData: true });
    return () => {
      watching.disconnect();
      cancelAnimationFrame(frame);
    };
  }, [path]);
}
