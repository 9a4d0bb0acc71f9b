import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";

import { dossierOptions } from "../../api/queries/stock";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { MaterialForm } from "./MaterialForm";
import css from "./parts.module.css";

/** A new material, or another colour of one that is there. */
export function NewMaterialPage() {
  const { like } = useSearch({ from: "/stock/new" });
  const from = useQuery({ ...dossierOptions(like ?? ""), enabled: Boolean(like) });
  const navigate = useNavigate();
  if (like && from.isPending) return <Waiting what="Fetching the other colour …" />;
  if (from.isError) return <ErrorNote error={from.error} />;
  const m = from.data?.material;
  return (
    <div className="page" style={{ maxWidth: 1100 }}>
      <div className={css.titled}>
        <div>
          <Link to="/stock" className={css.back}>
            Stock
          </Link>
          <h1>{m ? `Another colour of ${m.maker} ${m.product}` : "New material"}</h1>
          <div className="soft">
            {m ? "Its other values start from " + m.colour + ": change what differs." : "Maker, product, polymer and colour are enough to begin. "}
            {!m && (
              <>
                Many at once: <Link to="/stock/lists">paste your list</Link>.
              </>
            )}
          </div>
        </div>
      </div>
      <MaterialForm key={like ?? "new"} dossier={from.data} isNew onDone={(id) => void navigate({ to: "/stock/materials/$materialId", params: { materialId: id } })} />
    </div>
  );
}
