import { useEffect } from "react";

/** Take files that are pasted anywhere on the page. */
export function usePastedFiles(onFiles: (files: Iterable<File>) => void) {
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      const files = event.clipboardData?.files;
      if (!files || files.length === 0) return;
      event.preventDefault();
      onFiles(files);
    };
    window.addEventListener("paste", onPaste);
    return () => window.removeEventListener("paste", onPaste);
  }, [onFiles]);
}
