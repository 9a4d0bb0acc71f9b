import { Button, Modal, UnstyledButton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { pictureOf } from "../../api/queries/dialIn";
import { specimenPhotosOptions } from "../../api/queries/studies";
import { ArmSwatch } from "../../ui/Swatch";
import css from "./findings.module.css";

type SpecimenPhoto = Schemas["SpecimenPhoto"];

interface SpecimenPhotosProps {
  testId: string;
  /** In the order of the figure. */
  arms: readonly Schemas["FindingArm"][];
  onOpen: (specimenId: string | null, runId: string) => void;
}

/** The light table holds so many. */
const MOST = 12;

/** One photograph of each arm, after the test where there is one; enlarged on a touch, all together on the light table. */
export function SpecimenPhotos({ testId, arms, onOpen }: SpecimenPhotosProps) {
  const photos = useQuery(specimenPhotosOptions(testId));
  const [large, setLarge] = useState<SpecimenPhoto | null>(null);
  const items = photos.data?.items ?? [];
  if (!items.length) return null;
  const shown = arms.flatMap((arm) => {
    const own = chosen(items.filter((p) => p.arm_id === arm.arm.id));
    return own ? [{ arm, photo: own }] : [];
  });
  const nameOf = (p: SpecimenPhoto) => arms.find((a) => a.arm.id === p.arm_id)?.name ?? "";
  return (
    <section aria-label="Specimens">
      <h2>
        Specimens{" "}
        <Link to="/dial-in/light-table" search={{ photos: shown.map((s) => s.photo.photo.id).slice(0, MOST).join(",") }} style={{ fontSize: "0.9rem", fontWeight: 400, marginLeft: 12 }}>
          Side by side on the light table
        </Link>
      </h2>
      <ul className={css.specimens}>
        {shown.map(({ arm, photo }) => (
          <li key={arm.arm.id}>
            <UnstyledButton onClick={() => setLarge(photo)} aria-label={`Enlarge ${arm.name}, ${photo.code}`}>
              <img src={pictureOf(photo.photo.id, true)} alt={photo.photo.caption || `${arm.name}, specimen ${photo.code}`} loading="lazy" />
            </UnstyledButton>
            <span className={css.ofArm}>
              <ArmSwatch arm={arm.arm} size={24} /> {arm.name}
            </span>
          </li>
        ))}
      </ul>
      <Modal opened={large !== null} onClose={() => setLarge(null)} size="xl" title={large ? `${nameOf(large)}, ${large.code}` : ""} closeButtonProps={{ "aria-label": "Close the photograph" }}>
        {large && (
          <>
            <img src={pictureOf(large.photo.id)} alt={large.photo.caption || `specimen ${large.code}`} style={{ width: "100%" }} />
            <p>{large.photo.caption}</p>
            {large.run_id && (
              <Button
                variant="default"
                onClick={() => {
                  setLarge(null);
                  onOpen(large.specimen_id, large.run_id ?? "");
                }}
              >
                Its readings
              </Button>
            )}
          </>
        )}
      </Modal>
    </section>
  );
}

/** Of an arm's photographs the newest one after the test, else the newest. */
function chosen(own: readonly SpecimenPhoto[]): SpecimenPhoto | undefined {
  return own.findLast((p) => p.photo.subject_kind === "run") ?? own.at(-1);
}
