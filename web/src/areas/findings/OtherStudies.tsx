import { Button, MultiSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import { materialsOptions } from "../../api/queries/stock";

/** Rows of other studies that are shown before more are asked for. */
export const FEW_EARLIER = 3;

interface OtherStudiesProps {
  /** How many results there are from other studies. */
  count: number;
  all: boolean;
  onAll: (all: boolean) => void;
  /** Materials of the study, which need not be added. */
  own: readonly string[];
  /** Materials that were added to the figure. */
  added: readonly string[];
  onAdded: (materials: string[]) => void;
}

/** Which results from elsewhere are in the figure: all of the study's materials, and those of any other material. */
export function OtherStudies({ count, all, onAll, own, added, onAdded }: OtherStudiesProps) {
  const materials = useQuery(materialsOptions());
  const others = (materials.data?.items ?? []).filter((m) => !own.includes(m.id));
  return (
    <div style={{ display: "flex", flexWrap: "wrap", gap: "0.4rem 1.2rem", alignItems: "center", marginTop: "0.3rem" }}>
      {count > FEW_EARLIER && added.length === 0 && (
        <Button size="compact-sm" variant="subtle" ml={-8} onClick={() => onAll(!all)}>
          {all ? "Show fewer from other studies" : `Show ${String(count - FEW_EARLIER)} more from other studies`}
        </Button>
      )}
      {others.length > 0 && (
        <MultiSelect
          size="xs"
          w={300}
          searchable
          clearable
          aria-label="Also show another material"
          placeholder={added.length ? "" : "Also show another material"}
          nothingFoundMessage="No such material"
          data={others.map((m) => ({ value: m.id, label: `${m.maker} ${m.product}, ${m.colour}` }))}
          value={added.filter((id) => others.some((m) => m.id === id))}
          onChange={onAdded}
        />
      )}
      {added.length > 0 && count === 0 && <span className="soft">Nothing was measured of it in this test.</span>}
    </div>
  );
}
