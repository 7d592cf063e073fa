import { useEffect, useState } from "react";

/** Take files that are dropped anywhere; the answer is whether some are held over the page. */
export function useDroppedFiles(onFiles: (files: Iterable<File>) => void): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    // Without this the browser leaves the page and opens what was dropped.
    const onDragOver = (event: DragEvent) => {
      if (!event.dataTransfer?.types.includes("Files")) return;
      event.preventDefault();
      setOver(true);
    };
    const onDragLeave = (event: DragEvent) => {
      // Out of the window, not just from one part of it to the next.
      if (event.relatedTarget === null) setOver(false);
    };
    const onDrop = (event: DragEvent) => {
      setOver(false);
      const files = event.dataTransfer?.files;
      if (!files || files.length === 0) return;
      event.preventDefault();
      onFiles(files);
    };
    window.addEventListener("dragover", onDragOver);
    window.addEventListener("dragleave", onDragLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onDragOver);
      window.removeEventListener("dragleave", onDragLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, [onFiles]);
  return over;
}
