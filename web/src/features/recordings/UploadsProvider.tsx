/** Uploads go on whatever page is shown, and files can be dropped on any of them. */

import { createContext, useContext, useEffect, useMemo, type ReactNode } from "react";

import { moving, useUploading } from "./uploads";
import { useDroppedFiles } from "./useDroppedFiles";

type Uploads = ReturnType<typeof useUploading> & {
  /** Whether files are held over the page just now. */
  over: boolean;
};

const UploadsContext = createContext<Uploads | null>(null);

export function UploadsProvider({ children }: { children: ReactNode }) {
  const { uploads, add, dismiss } = useUploading();
  const over = useDroppedFiles(add);
  useAskBeforeClosing(moving(uploads).length > 0);
  const value = useMemo(() => ({ uploads, add, dismiss, over }), [uploads, add, dismiss, over]);
  return <UploadsContext value={value}>{children}</UploadsContext>;
}

/** Uploads now and those that failed, wherever they were begun. */
export function useUploads(): Uploads {
  const uploads = useContext(UploadsContext);
  if (!uploads) throw new Error("useUploads: no UploadsProvider around");
  return uploads;
}

/** The browser asks before it closes the page while `wanted`. */
function useAskBeforeClosing(wanted: boolean) {
  useEffect(() => {
    if (!wanted) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [wanted]);
}
