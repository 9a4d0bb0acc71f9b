import { Link } from "@tanstack/react-router";

import { pictureOf } from "../../api/queries/dialIn";
import { Photos } from "../photos/Photos";
import css from "./grading.module.css";
import type { Print } from "./grading";

const MOST = 6;

/** The photographs of the print at hand, large, beside what is graded; those of several prints on the light table. */
export function PrintPhotos({ print, all }: { print: Print | undefined; all: readonly Print[] }) {
  if (!print) return null;
  const others = all.filter((p) => p.specimen_id !== print.specimen_id).flatMap((p) => p.photos.slice(-1));
  const newest = print.photos.at(-1);
  const together = [...print.photos.slice(-1), ...others].slice(0, MOST);
  return (
    <aside className={css.beside} aria-label={`Photographs of ${print.code}`}>
      <strong className={css.code}>{print.code}</strong>
      {newest && <img className={css.large} src={pictureOf(newest.id)} alt={newest.caption || `photograph of ${print.code} by ${newest.who}`} />}
      <Photos subject={{ kind: "specimen", id: print.specimen_id }} photos={print.photos.slice(0, -1)} beside={others.map((p) => p.id)} />
      {newest && together.length > 1 && (
        <Link to="/dial-in/light-table" search={{ photos: together.map((p) => p.id).join(",") }}>
          {together.length} prints on the light table
        </Link>
      )}
    </aside>
  );
}
