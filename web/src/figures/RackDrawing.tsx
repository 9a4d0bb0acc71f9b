import { useMediaQuery } from "@mantine/hooks";
import { useEffect, useRef } from "react";

import type { Schemas } from "../api/client";
import { load } from "../ui/format";

export interface PlaceMark {
  /** Shown under the code: what was read in this round. */
  read: string | null;
  state: "read" | "here" | "open" | "ahead" | "skipped";
}

interface RackDrawingProps {
  rack: Schemas["RackView"];
  marks: ReadonlyMap<number, PlaceMark>;
  here: number | null;
  onPlace: (position: number) => void;
}

const [HIGH, WIDE] = [330, 1236];

/** A rack with its places: the open frames hang on the bar, each with its weight. */
export function RackDrawing({ rack, marks, here, onPlace }: RackDrawingProps) {
  const step = WIDE / rack.places;
  const s = Math.min(1, step / 130);
  // on a phone a place stays as wide as a thumb, and the one at hand comes into sight
  const narrow = useMediaQuery("(max-width: 700px)") ?? false;
  const bench = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (narrow && here !== null) bench.current?.querySelector(`[data-place="${String(here + 1)}"]`)?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [narrow, here]);
  return (
    <div ref={bench} style={narrow ? { overflowX: "auto" } : undefined} {...(narrow ? { tabIndex: 0, role: "region", "aria-label": "The rack" } : {})}>
    <svg viewBox={`0 0 ${WIDE} ${HIGH}`} style={{ width: narrow ? `${String(rack.places * 84)}px` : "100%", display: "block" }} role="group" aria-label={`${rack.name}, ${rack.places} places`}>
      <path d={`M0 48H${WIDE}`} stroke="var(--ink)" strokeWidth="5" />
      {!rack.weights && <path d={`M3 96V272H${WIDE - 3}V96M3 128H${WIDE - 3}`} fill="none" stroke="var(--line)" strokeWidth="3" />}
      {Array.from({ length: rack.places }, (_, i) => {
        const member = rack.members.find((m) => m.position === i);
        const mark = marks.get(i);
        const own = i === here;
        return (
          <g
            key={i}
            transform={`translate(${(i + 0.5) * step} 0)`}
            role="button"
            tabIndex={-1}
            data-place={i + 1}
            aria-current={own ? "step" : undefined}
            onClick={() => onPlace(i)}
            style={{ cursor: "pointer" }}
            opacity={own || mark?.state === "read" || mark?.state === "open" ? 1 : 0.55}
          >
            <rect x={-step / 2} width={step} height={HIGH} fill="transparent" />
            <text y="34" textAnchor="middle" fontSize="16" fontWeight={own ? 700 : 400} fill={own ? "var(--accent)" : "var(--ink)"}>
              {i + 1}
            </text>
            {member && !rack.weights ? <Soaking member={member} own={own} mark={mark} s={s} /> : member ? <Hanging member={member} own={own} mark={mark} s={s} loaded={member.stage === "loaded"} /> : <Free own={own} s={s} />}
          </g>
        );
      })}
    </svg>
    </div>
  );
}

function Hanging({ member, own, mark, s, loaded }: { member: Schemas["RackMember"]; own: boolean; mark: PlaceMark | undefined; s: number; loaded: boolean }) {
  const line = own ? "var(--accent)" : "var(--ink)";
  const width = own ? 3 : 1.7;
  const [figureOf, unitOf] = load(member.load).split(" ");
  return (
    <>
      <path d={`M0 50V92M0 182V206`} stroke={line} strokeWidth={width} />
      <g transform={`scale(${s} 1)`}>
        <path d="M-34 92H34V110H-14V164H34V182H-34Z" fill="var(--surface)" stroke={line} strokeWidth={width} />
        {own && (
          <g stroke="var(--accent)" strokeWidth="1.7" fill="var(--accent)">
            <path d="M42 110h20M42 164h20M52 112V162" />
            <path d="M48 118l4 -8l4 8zM48 156l4 8l4 -8z" stroke="none" />
          </g>
        )}
        <path d="M-26 206H26L34 268H-34Z" fill={loaded ? "var(--raised)" : "none"} stroke={line} strokeWidth={width} strokeDasharray={loaded ? undefined : "4 4"} />
        <text y="238" textAnchor="middle" fontSize="15" fontFamily="var(--mono)" fill="var(--ink)">
          {figureOf}
          <tspan x="0" dy="18" fontSize="13" fontFamily="var(--sans)">
            {unitOf}
          </tspan>
        </text>
      </g>
      <text y="293" textAnchor="middle" fontSize={15 * Math.max(0.7, s)} fontFamily="var(--mono)" fontWeight="700" fill={own ? "var(--accent)" : "var(--ink)"} textDecoration={mark?.state === "read" ? "line-through" : undefined}>
        {member.code}
      </text>
      <text y="315" textAnchor="middle" fontSize={14 * Math.max(0.7, s)} fontFamily="var(--mono)" fill="var(--soft)">
        {mark?.read ?? (mark?.state === "skipped" ? "not read" : "")}
      </text>
    </>
  );
}

/** A coupon on its thread: in the bath, or drawn dashed above it while it has not gone in. */
function Soaking({ member, own, mark, s }: { member: Schemas["RackMember"]; own: boolean; mark: PlaceMark | undefined; s: number }) {
  const line = own ? "var(--accent)" : "var(--ink)";
  const inside = member.stage !== "hung";
  const y = inside ? 160 : 66;
  return (
    <>
      <path d={`M0 50V${y}`} stroke={line} strokeWidth={own ? 2.5 : 1.4} />
      <rect x={-34 * s} y={y} width={68 * s} height={56} rx="3" fill="var(--surface)" stroke={line} strokeWidth={own ? 3 : 1.7} strokeDasharray={inside ? undefined : "4 4"} />
      <circle cx="0" cy={y + 8} r="4" fill="none" stroke={line} />
      <text y="293" textAnchor="middle" fontSize={15 * Math.max(0.7, s)} fontFamily="var(--mono)" fontWeight="700" fill={own ? "var(--accent)" : "var(--ink)"} textDecoration={mark?.state === "read" ? "line-through" : undefined}>
        {member.code}
      </text>
      <text y="315" textAnchor="middle" fontSize={14 * Math.max(0.7, s)} fontFamily="var(--mono)" fill="var(--soft)">
        {mark?.read ?? (mark?.state === "skipped" ? "not read" : "")}
      </text>
    </>
  );
}

function Free({ own, s }: { own: boolean; s: number }) {
  return (
    <g>
      <path d="M0 50V84" stroke={own ? "var(--accent)" : "var(--soft)"} strokeWidth={own ? 3 : 1.4} />
      <path d={`M${-30 * s} 92h${60 * s}v90h${-60 * s}z`} fill="none" stroke={own ? "var(--accent)" : "var(--line)"} strokeDasharray="4 5" strokeWidth={own ? 2.4 : 1.4} />
      <text y="142" textAnchor="middle" fontSize="13" fill="var(--soft)">
        free
      </text>
    </g>
  );
}
