import { Button, Modal } from "@mantine/core";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, type Schemas, unwrap } from "../../api/client";
import { pictureOf } from "../../api/queries/dialIn";
import { capital, onDay } from "../../ui/format";
import { ErrorNote, Waiting } from "../../ui/Notes";
import { chip } from "../dial_in/words";
import css from "./photos.module.css";

const PAGE = 40;

interface PhotoChoiceProps {
  lying: readonly string[];
  most: number;
  onChange: (ids: readonly string[]) => void;
}

/** All photographs, the newest first; a touch lays one on the table or takes it off. */
export function PhotoChoice({ lying, most, onChange }: PhotoChoiceProps) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="xs" variant="default" onClick={() => setOpen(true)}>
        Choose photographs …
      </Button>
      <Modal opened={open} onClose={() => setOpen(false)} title={`On the light table: ${String(lying.length)} of at most ${String(most)}`} size="xl">
        {open && <Choices lying={lying} most={most} onChange={onChange} />}
      </Modal>
    </>
  );
}

function Choices({ lying, most, onChange }: PhotoChoiceProps) {
  const pages = useInfiniteQuery({
    queryKey: ["get", "/api/light-table/photographs"],
    queryFn: async ({ pageParam }) => unwrap<Schemas["LightTableView"]>(await client.GET("/api/light-table/photographs", { params: { query: { limit: PAGE, ...(pageParam && { before: pageParam }) } } })),
    initialPageParam: "",
    getNextPageParam: (last) => (last.items.length < PAGE ? undefined : last.items.at(-1)?.photo.id),
  });
  if (pages.isError) return <ErrorNote error={pages.error} again={() => void pages.refetch()} />;
  if (!pages.data) return <Waiting what="Reading the photographs …" />;
  const items = pages.data.pages.flatMap((p) => p.items);
  if (!items.length) return <p>No photograph was taken in yet: add one to a trial, a print or a spool.</p>;
  return (
    <>
      <ul className={css.choices}>
        {items.map(({ photo, what, changes, material }) => {
          const on = lying.includes(photo.id);
          return (
            <li key={photo.id}>
              <button type="button" aria-pressed={on} disabled={!on && lying.length >= most} onClick={() => onChange(on ? lying.filter((id) => id !== photo.id) : [...lying, photo.id])}>
                <img src={pictureOf(photo.id, true)} alt="" loading="lazy" />
                <strong>{capital(what)}</strong>
                {changes.length > 0 && <span>{changes.map(chip).join(" · ")}</span>}
                <span>{material}</span>
                <span className="soft">
                  {onDay(photo.added_at)}
                  {photo.caption && `, ${photo.caption}`}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      {pages.hasNextPage && (
        <Button variant="default" loading={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
          Older ones
        </Button>
      )}
    </>
  );
}
