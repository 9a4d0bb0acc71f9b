import { Button, Textarea, UnstyledButton } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { newId } from "../../api/ids";
import { atMinute, capital } from "../../ui/format";
import { Refusal } from "../../ui/Notes";
import { Statements } from "../../ui/Statements";
import { readDraft, useDraftForm } from "../../ui/useDraftForm";
import css from "./findings.module.css";
import { useDoubts } from "./useDoubts";

type Doubt = Schemas["DoubtView"];

interface DoubtListProps {
  studyId: string;
  doubts: readonly Doubt[];
  /** How many arms the study has: doubts about all of them name none. */
  arms: number;
  /** Whether each names its test; not where the list is that of one test. */
  withTest?: boolean;
  onOpen: (specimenId: string | null, runId: string, testId: string | null) => void;
}

/** Doubts of one study, each with its evidence, what could settle it, and what was decided. */
export function DoubtList({ studyId, doubts, arms, withTest = false, onOpen }: DoubtListProps) {
  return (
    <ul className={css.doubtList}>
      {doubts.map((d) => (
        <li key={d.key} data-state={d.state}>
          <OneDoubt studyId={studyId} doubt={d} arms={arms} withTest={withTest} onOpen={onOpen} />
        </li>
      ))}
    </ul>
  );
}

function OneDoubt({ studyId, doubt, arms, withTest = false, onOpen }: Omit<DoubtListProps, "doubts"> & { doubt: Doubt }) {
  const draft = `doubt ${studyId} ${doubt.key}`;
  const [noting, setNoting] = useState(() => readDraft(draft) !== null);
  const change = useDoubts(studyId);
  // one id for one press: Enter twice adds specimens once
  const [retestId, setRetestId] = useState(newId);
  const about = [withTest ? doubt.test : "", doubt.arm_ids.length < arms ? doubt.names.filter((name) => !doubt.text.includes(name)).join("; ") : ""].filter(Boolean).join(" · ");
  const decision = doubt.decision;
  const open = doubt.state === "open";
  const retest = async () => {
    if (await change.decide(retestId, doubt, { kind: "retest", note: "", specimens: doubt.further })) setRetestId(newId());
  };
  return (
    <>
      <strong className={open ? css.caution : undefined}>{capital(doubt.text)}</strong>
      {about && <div className="soft">{about}</div>}
      {open && <div className="soft">{capital(doubt.remedy)}</div>}
      {decision && <Decided doubt={doubt} decision={decision} busy={change.busy} onOpen={() => void change.open(decision)} />}
      <div className={css.acts}>
        {doubt.specimens.slice(0, 3).map((s) => (
          <UnstyledButton key={s.run_id} className={css.act} onClick={() => onOpen(s.specimen_id, s.run_id, doubt.test_id)}>
            Look at {s.code}
          </UnstyledButton>
        ))}
        {open && doubt.spool_id && (
          <Link to="/stock/drying" search={{ spool: doubt.spool_id }}>
            dry its spool
          </Link>
        )}
        {open && <Where studyId={studyId} doubt={doubt} />}
        {open && doubt.retest_arm_ids.length > 0 && (
          <UnstyledButton className={css.act} disabled={change.busy} onClick={() => void retest()}>
            Test {doubt.further} more
          </UnstyledButton>
        )}
        {open && !noting && (
          <UnstyledButton className={css.act} onClick={() => setNoting(true)}>
            Settle with a note
          </UnstyledButton>
        )}
      </div>
      {open && noting && <Note studyId={studyId} draft={draft} busy={change.busy} onSettle={(id, note) => change.decide(id, doubt, { kind: "note", note, specimens: 1 })} onClose={() => setNoting(false)} />}
      <Refusal text={change.problem} />
    </>
  );
}

/** Where the doubt is settled, if that is neither a specimen nor a note. */
function Where({ studyId, doubt }: { studyId: string; doubt: Doubt }) {
  if (doubt.kind === "unlike circumstances")
    return (
      <Link to="/studies/$studyId/plan" params={{ studyId }}>
        see the plan
      </Link>
    );
  if (doubt.rig_id)
    return (
      <Link to="/rigs/$rigId" params={{ rigId: doubt.rig_id }}>
        {doubt.kind === "rig drifts" ? "see its drift" : "calibrate it"}
      </Link>
    );
  if (doubt.material_id)
    return (
      <Link to="/stock/materials/$materialId" params={{ materialId: doubt.material_id }}>
        see the material
      </Link>
    );
  return null;
}

function Decided({ doubt, decision, busy, onOpen }: { doubt: Doubt; decision: Schemas["DecisionView"]; busy: boolean; onOpen: () => void }) {
  const by = `${decision.who || "unsigned"}, ${atMinute(decision.decided_at)}`;
  const words = decision.kind === "note" ? `Settled: ${decision.note} (${by})` : doubt.state === "retest" ? `Being tested again: ${String(decision.tested)} of ${String(decision.to_test)} tested (${by})` : `Still so after ${String(decision.to_test)} more were tested (${by})`;
  return (
    <div className="soft">
      {words}{" "}
      {doubt.state === "retest" && (
        <Link to="/bench" search={{ test: doubt.test_id ?? undefined }}>
          to the bench
        </Link>
      )}{" "}
      {doubt.state !== "open" && (
        <UnstyledButton className={css.act} disabled={busy} onClick={onOpen}>
          {decision.kind === "note" ? "Open again" : "Take back"}
        </UnstyledButton>
      )}
    </div>
  );
}

interface NoteProps {
  studyId: string;
  draft: string;
  busy: boolean;
  onSettle: (id: string, note: string) => Promise<boolean>;
  onClose: () => void;
}

/** Why a doubt is settled; what is typed outlives a reload. */
function Note({ studyId, draft, busy, onSettle, onClose }: NoteProps) {
  const kept = useDraftForm(draft, { initialValues: { note: "" } });
  const note = kept.form.values.note.trim();
  const settle = async () => {
    if (note && (await onSettle(kept.id, note))) {
      kept.reset();
      onClose();
    }
  };
  return (
    <form
      className={css.note}
      onSubmit={(e) => {
        e.preventDefault();
        void settle();
      }}
    >
      <Textarea aria-label="Why it is settled" placeholder="why it is settled" autosize minRows={2} maxLength={2000} autoFocus {...kept.form.getInputProps("note")} />
      <Statements text={kept.form.values.note} studyId={studyId} />
      <div>
        <Button type="submit" size="xs" variant="default" disabled={!note || busy}>
          Settle
        </Button>
        <Button
          size="xs"
          variant="subtle"
          onClick={() => {
            kept.reset();
            onClose();
          }}
        >
          Cancel
        </Button>
      </div>
    </form>
  );
}
