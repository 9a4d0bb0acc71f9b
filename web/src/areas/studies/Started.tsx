import { Button, Switch, TextInput } from "@mantine/core";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { atMinute, onDay } from "../../ui/format";
import css from "./plan.module.css";
import { dayOf, endOf } from "./wanted";
import type { Planned } from "./usePlan";

/** Why a started plan is changed: asked for beside what changes it. */
export function Reason({ plan }: { plan: Planned }) {
  return <TextInput aria-label="Why is the plan changed?" placeholder="Why is the plan changed?" value={plan.reason} onChange={(e) => plan.setReason(e.currentTarget.value)} maxLength={300} w={300} />;
}

/** Whether the plan is still open or was started; its amendments; and what may differ between materials. */
export function Started({ study, plan }: { study: Schemas["StudyView"]; plan: Planned }) {
  return (
    <section className={css.part} aria-label="The plan">
      <h2>The plan</h2>
      {study.studied_factor === "material" && (
        <Switch
          label="Each material is printed at its best"
          description="Then its heat, fan, flow and retraction may differ; layers, lines, walls and infill may not."
          checked={study.each_at_best}
          disabled={plan.busy}
          onChange={(e) => void plan.edit({ each_at_best: e.currentTarget.checked, reason: plan.reason }).then((kept) => kept && plan.setReason(""))}
        />
      )}
      {study.started_at !== null && study.studied_factor === "material" && plan.specimens === 0 && <Reason plan={plan} />}
      {study.started_at === null ? (
        <>
          <p className="soft">Once it is started the plan is frozen: what changes then is an amendment, with a reason. Printing the first batch starts it.</p>
          <Button variant="default" loading={plan.busy} onClick={() => void plan.edit({ start: true, reason: "" })}>
            Start the study
          </Button>
        </>
      ) : (
        <p className="soft">Started on {onDay(study.started_at)}. What is changed now is kept as an amendment.</p>
      )}
      <WantedBy key={study.wanted_by} study={study} plan={plan} />
      {study.amendments.length > 0 && (
        <ol className={css.amendments} aria-label="Amendments">
          {study.amendments.map((a) => (
            <li key={`${a.at} ${a.what}`}>
              <span>
                {a.what}: <em>{a.reason}</em>
              </span>
              <span className="soft">
                {atMinute(a.at)}, {a.who}
              </span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** The day is kept once the field is left, or with Enter: while it is typed it passes through years that nobody means. */
function WantedBy({ study, plan }: { study: Schemas["StudyView"]; plan: Planned }) {
  const kept = study.wanted_by === null ? "" : dayOf(study.wanted_by);
  const [typed, setTyped] = useState(kept);
  const keep = () => {
    if (typed !== kept) void plan.edit({ wanted_by: typed === "" ? null : endOf(typed) });
  };
  return (
    <TextInput
      type="date"
      label="Its answer is needed by"
      description="What is not tested by then shows as late on the board."
      value={typed}
      disabled={plan.busy}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
      maw={360}
      mb="sm"
    />
  );
}
