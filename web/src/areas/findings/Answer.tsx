import { Button } from "@mantine/core";
import { useClipboard } from "@mantine/hooks";

import type { Schemas } from "../../api/client";
import css from "./findings.module.css";

/** A sentence whose figures are not parted from their unit, nor the ends of an interval from each other. */
function Unbroken({ text }: { text: string }) {
  return text.split(/(\d[\d.]* (?:%|°C|MPa|mm|N)|\[[^\]]*\])/).map((part, i) => (i % 2 ? <span key={i} className={css.figure}>{part}</span> : part));
}

/** The answer in words, the first sentence large; ready to copy. */
export function Answer({ sentences, reference }: { sentences: readonly Schemas["SentenceView"][]; reference: string | null }) {
  const clipboard = useClipboard();
  const [first, ...rest] = sentences;
  if (!first) return reference === null ? <p className={css.lead}>Choose what the others are compared with: touch a name.</p> : null;
  return (
    <section className={css.answer} aria-label="The answer in words">
      <p className={css.lead}>
        <Unbroken text={first.text} />
      </p>
      {rest.length > 0 && (
        <p className={css.further}>
          {rest.map((s) => (
            <span key={s.text} data-says={s.says}>
              <Unbroken text={s.text} />{" "}
            </span>
          ))}
        </p>
      )}
      <Button size="compact-sm" variant="subtle" ml={-8} onClick={() => clipboard.copy(sentences.map((s) => s.text).join(" "))}>
        {clipboard.copied ? "Copied" : clipboard.error ? "The browser does not allow it" : "Copy"}
      </Button>
    </section>
  );
}
