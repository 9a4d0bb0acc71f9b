import { type ReactNode, useState } from "react";

interface DropFileProps {
  onFile: (file: File) => void;
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
        const file = e.dataTransfer.files[0];
        if (file) onFile(file);
      }}
    >
      {children}
    </div>
  );
}
