import { Button, FileButton } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { refresh } from "../../api/api";
import { messageOf, type Schemas } from "../../api/client";
import { fileKey, useIds } from "../../api/useIds";
import { pictureOf, sendPhoto } from "../../api/queries/dialIn";
import { Refusal } from "../../ui/Notes";
import css from "./photos.module.css";

interface PhotosProps {
  subject: { kind: Schemas["PhotoView"]["subject_kind"]; id: string; band?: number };
  photos: readonly Schemas["PhotoView"][];
  /** What stands on the light table beside them. */
  beside?: readonly string[];
}

/** Photographs of something: added from files or the camera, several at once; looked at on the light table. */
export function Photos({ subject, photos, beside = [] }: PhotosProps) {
  const queries = useQueryClient();
  const ids = useIds();
  const [sent, setSent] = useState<{ done: number; of: number } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const add = async (files: File[]) => {
    setProblem(null);
    for (const [i, file] of files.entries()) {
      setSent({ done: i, of: files.length });
      try {
        await ids.sent(`${fileKey(file)} ${JSON.stringify(subject)}`, (id) => sendPhoto(id, file, subject));
      } catch (error) {
        setProblem(`${file.name}: ${messageOf(error)}`);
      }
    }
    setSent(null);
    refresh(queries, "/api/trails/{trail_id}", "/api/studies/{study_id}/batches", "/api/tests/{test_id}/grading", "/api/photos", "/api/tests/{test_id}/photos");
  };
  return (
    <div className={css.photos}>
      {photos.map((p) => (
        <Link key={p.id} to="/dial-in/light-table" search={{ photos: [p.id, ...beside].slice(0, 6).join(",") }} className={css.thumb} title={p.caption}>
          <img src={pictureOf(p.id, true)} alt={p.caption || `photograph${p.band ? ` of band ${String(p.band)}` : ""} by ${p.who}`} />
        </Link>
      ))}
      <span>
        <FileButton multiple accept="image/jpeg,image/png,image/webp" onChange={(files) => void add(files)}>
          {(props) => (
            <Button {...props} size="xs" variant="default" loading={sent !== null}>
              {photos.length ? "More photographs" : "Add photographs"}
            </Button>
          )}
        </FileButton>
        {sent && (
          <span role="status" className="soft">
            {" "}
            {sent.done} of {sent.of}
          </span>
        )}
      </span>
      <Refusal text={problem} />
    </div>
  );
}
