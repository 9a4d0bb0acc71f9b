import { Modal } from "@mantine/core";

import css from "./bench.module.css";
import { type Asked, Questions } from "../../ui/Questions";
import type { Member } from "./round";

interface EndDialogProps {
  member: Member;
  /** What it lacks, asked before it is ended. */
  question: Asked | null;
  onConfirm: () => void;
  onClose: () => void;
  /** null: it was hung by mistake. */
  onEnd: (outcome: string | null) => void;
}

/** It comes off its place: how it ended. What was read of it stays. */
export function EndDialog({ member, question, onConfirm, onClose, onEnd }: EndDialogProps) {
  return (
    <Modal opened onClose={onClose} title={`${member.code} leaves place ${member.position + 1}`}>
      <div className={css.faults}>
        {question && <Questions questions={[question]} keys onLikely={() => undefined} onConfirm={onConfirm} />}
        {member.outcomes.map((o, i) => (
          <button key={o.name} type="button" className={css.fault} data-autofocus={i === member.outcomes.length - 1 || undefined} onClick={() => onEnd(o.name)}>
            {o.label}
            {o.bound !== "exact" && <span className="soft"> → {o.bound.replace("_", " ")}</span>}
          </button>
        ))}
        {member.stage === "hung" && (
          <button type="button" className={css.fault} onClick={() => onEnd(null)}>
            hung by mistake: free the place
          </button>
        )}
      </div>
    </Modal>
  );
}
