import { Menu, UnstyledButton } from "@mantine/core";
import { type ReactNode, useRef, useState } from "react";

import { Refusal } from "../ui/Notes";
import { type About, type Cell, downloadCsv, downloadPng, downloadSvg, fileName, headed, standaloneSvg } from "./download";

interface FigureFrameProps {
  title: ReactNode;
  name: string;
  /** What it is about, for the head and the name of what is taken along. */
  about?: About;
  rows: () => Cell[][];
  children: ReactNode;
  /** For figures that are no SVG in the page. */
  makeSvg?: () => string | Promise<string>;
  aside?: ReactNode;
  /** What is in doubt about it: it goes along with every picture of it. */
  doubts?: readonly string[];
}

const LINK = { fontSize: "0.85rem", color: "var(--accent)", textDecoration: "underline" } as const;

/** A figure with its title and ways to take it along. */
export function FigureFrame({ title, name, about, rows, children, makeSvg, aside, doubts = [] }: FigureFrameProps) {
  const body = useRef<HTMLDivElement>(null);
  const heading = useRef<HTMLHeadingElement>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const take = async (how: (name: string, svg: string) => void | Promise<void>) => {
    try {
      const found = body.current?.querySelector("svg");
      const svg = makeSvg ? await makeSvg() : found ? standaloneSvg(found) : null;
      if (svg === null) throw new Error("there is nothing drawn yet");
      const words = heading.current?.textContent.trim() ?? name;
      await how(fileName(about ?? null, name), headed(svg, words, about?.name ?? "", doubts));
      setProblem(null);
    } catch (error) {
      setProblem(`It could not be taken along: ${error instanceof Error ? error.message : String(error)}`);
    }
  };
  return (
    <figure style={{ margin: 0 }}>
      <figcaption style={{ display: "flex", alignItems: "center", flexWrap: "wrap", gap: "4px 16px", marginBottom: 4, minHeight: 32 }}>
        <h2 style={{ flex: 1 }} ref={heading}>
          {title}
        </h2>
        {aside}
        <Menu position="bottom-end">
          <Menu.Target>
            <UnstyledButton style={LINK}>Download</UnstyledButton>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => void take(downloadPng)}>PNG, 1920 × 1080</Menu.Item>
            <Menu.Item onClick={() => void take(downloadSvg)}>SVG</Menu.Item>
            <Menu.Item onClick={() => downloadCsv(name, rows(), about ?? null)}>CSV of the numbers</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </figcaption>
      <Refusal text={problem} />
      <div ref={body}>{children}</div>
    </figure>
  );
}

/** A table's way out: its rows as CSV. */
export function TakeTable({ name, about, rows }: { name: string; about: About; rows: () => Cell[][] }) {
  return (
    <UnstyledButton style={LINK} aria-label={`Download the ${name} as CSV`} onClick={() => downloadCsv(name, rows(), about)}>
      CSV
    </UnstyledButton>
  );
}
