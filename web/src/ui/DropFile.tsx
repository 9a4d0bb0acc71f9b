import { type ReactNode, useState } from "react";

interface DropFileProps {
  /** The first of what was dropped, and all of it. */
  onFile: (file: File, all: File[]) => void;
  className?: string | undefined;
  children: ReactNode;
}

/** Where a file is dropped; marked with `data-over` while one is held over it. */
export function DropFile({ onFile, className, children }: DropFileProps) {
  const [over, setOver] = useState(false);
  return (
    <div
      className={className}
      data-over={over || undefined}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const all = [...e.dataTransfer.files];
        const [file] = all;
        if (file) onFile(file, all);
      }}
    >
      {children}
    </div>
  );
}
