import { Button, Modal, TextInput } from "@mantine/core";
import { useEffect, useState } from "react";

import css from "./bench.module.css";

const FAULTS = [
  { reason: "void or defect", hint: "a hole or a bad layer shows in the break" },
  { reason: "slipped", hint: "it slid in the grips" },
  { reason: "misprinted", hint: "wrong infill, wrong settings" },
  { reason: "damaged in handling", hint: "broke or bent before the pull" },
  { reason: "instrument fault", hint: "the rig or its display failed" },
  { reason: "other", hint: "say it in words" },
];

interface FaultDialogProps {
  code: string;
  onFault: (validity: "left_out" | "at_least", reason: string) => void;
  onClose: () => void;
}

/** Why this specimen does not count; a digit chooses. What was entered so far is kept with it. */
export function FaultDialog({ code, onFault, onClose }: FaultDialogProps) {
  const [other, setOther] = useState(false);
  const [words, setWords] = useState("");
  useEffect(() => {
    const listen = (e: KeyboardEvent) => {
      const fault = FAULTS[Number(e.key) - 1];
      if (!fault || other || e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      if (fault.reason === "other") setOther(true);
      else onFault("left_out", fault.reason);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [other, onFault]);
  return (
    <Modal opened onClose={onClose} title={`What is wrong with ${code}?`} size="md">
      <div className={css.faults}>
        {FAULTS.map((fault, i) => (
          <button key={fault.reason} type="button" className={css.fault} onClick={() => (fault.reason === "other" ? setOther(true) : onFault("left_out", fault.reason))}>
            <kbd>{i + 1}</kbd>
            <span>
              {fault.reason}
              <span className="soft"> · {fault.hint}</span>
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
