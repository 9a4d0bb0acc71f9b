import { useQuery } from "@tanstack/react-query";

import { wetnessOptions } from "../../api/queries/stock";
import css from "./parts.module.css";

/** A spool that popped in a trial and was not dried since: what was printed from it is in doubt. */
export function FoundWet({ spoolId }: { spoolId: string }) {
  const wet = useQuery(wetnessOptions(spoolId));
  return wet.data?.map((w) => (
    <div key={w.trial_id} className={css.doubts} role="note">
      <strong>Found wet:</strong> {w.words}. {w.trials.join(", ")}
    </div>
  ));
}
