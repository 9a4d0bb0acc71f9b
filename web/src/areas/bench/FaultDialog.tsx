import { Button, Modal, TextInput } from "@mantine/core";
import { useEffect, useState } from "react";

import css from "./bench.module.css";

/** What helps to tell the reasons apart; a reason without one stands for itself. */
const HINTS: Record<string, string> = {
  "void or defect": "a hole or a bad layer shows in the break",
  slipped: "it slid in the grips",
  misprinted: "wrong infill, wrong settings",
  "damaged in handling": "broke or bent before the test",
  "instrument fault": "the rig or its display failed",
  other: "say it in words",
};

interface FaultDialogProps {
  code: string;
  /** As core declares them. */
  reasons: readonly string[];
  onFault: (validity: "left_out" | "at_least", reason: string) => void;
  onClose: () => void;
}

/** Why this specimen does not count; a digit chooses. What was entered so far is kept with it. */
export function FaultDialog({ code, reasons, onFault, onClose }: FaultDialogProps) {
  const [other, setOther] = useState(false);
  const [words, setWords] = useState("");
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      const fault = reasons[Number(e.key) - 1];
      if (!fault || other || e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      if (fault === "other") setOther(true);
      else onFault("left_out", fault);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [other, onFault, reasons]);
  return (
    <Modal opened onClose={onClose} title={`What is wrong with ${code}?`} size="md">
      <div className={css.faults}>
        {reasons.map((fault, i) => (
          <button key={fault} type="button" className={css.fault} onClick={() => (fault === "other" ? setOther(true) : onFault("left_out", fault))}>
            <kbd>{i + 1}</kbd>
            <span>
              {fault}
              {HINTS[fault] && <span className="soft"> · {HINTS[fault]}</span>}
            </span>
          </button>
        ))}
        {other && (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (words.trim()) onFault("left_out", `other: ${words.trim()}`);
            }}
          >
            <TextInput label="In words" value={words} onChange={(e) => setWords(e.currentTarget.value)} autoFocus maxLength={180} />
            <Button type="submit" mt="xs" disabled={!words.trim()}>
              Leave it out
            </Button>
          </form>
        )}
        <hr style={{ width: "100%", border: "none", borderTop: "1px solid var(--line)" }} />
        <button type="button" className={css.fault} onClick={() => onFault("at_least", "test stopped early")}>
          <span>
            stopped early, it was holding<span className="soft"> · the value counts as at least</span>
          </span>
        </button>
      </div>
    </Modal>
  );
}
