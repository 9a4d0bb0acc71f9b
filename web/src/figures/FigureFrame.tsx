import { Menu, UnstyledButton } from "@mantine/core";
import { type ReactNode, useRef } from "react";

import { downloadCsv, downloadPng, downloadSvg, standaloneSvg } from "./download";

interface FigureFrameProps {
  title: ReactNode;
  name: string;
  rows: () => (string | number | null)[][];
  children: ReactNode;
  /** For figures that are no SVG in the page: make one at film size. */
  makeSvg?: () => string | Promise<string>;
  aside?: ReactNode;
}

/** A figure with its title and ways to take it along. */
export function FigureFrame({ title, name, rows, children, makeSvg, aside }: FigureFrameProps) {
  const body = useRef<HTMLDivElement>(null);
  const svg = async () => {
    if (makeSvg) return makeSvg();
    const found = body.current?.querySelector("svg");
    return found ? standaloneSvg(found) : "";
  };
  return (
    <figure style={{ margin: 0 }}>
      <figcaption style={{ display: "flex", alignItems: "center", gap: 16, marginBottom: 4, minHeight: 32 }}>
        <h2 style={{ flex: 1 }}>{title}</h2>
        {aside}
        <Menu position="bottom-end">
          <Menu.Target>
            <UnstyledButton style={{ fontSize: "0.85rem", color: "var(--accent)", textDecoration: "underline" }}>Download</UnstyledButton>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => void svg().then((text) => downloadPng(name, text))}>PNG, 1920 × 1080</Menu.Item>
            <Menu.Item onClick={() => void svg().then((text) => downloadSvg(name, text))}>SVG</Menu.Item>
            <Menu.Item onClick={() => downloadCsv(name, rows())}>CSV of the numbers</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </figcaption>
      <div ref={body}>{children}</div>
    </figure>
  );
}
