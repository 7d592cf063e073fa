import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";

const watchedKey = ["watched-folders"] as const;
/** The server scans every few seconds. */
const LOOK_AGAIN_MS = 5000;

/** All watched folders with their newest files. */
export function useWatchedFolders() {
  return useQuery({
    queryKey: watchedKey,
    queryFn: () => unwrap(api.GET("/api/watched-folders/")),
    refetchInterval: (query) => (query.state.data && query.state.data.length > 0 ? LOOK_AGAIN_MS : false),
  });
}

/** Folders of the server's machine whose paths begin so. */
export function useFoldersUnder(under: string, open: boolean) {
  return useQuery({
    queryKey: ["folders", under],
    queryFn: () => unwrap(api.GET("/api/folders/", { params: { query: { under } } })),
    enabled: open && under.startsWith("/"),
    retry: false,
  });
}

function useChange<T>(change: (input: T) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => client.invalidateQueries({ queryKey: watchedKey }) });
}

export interface NewFolder {
  folder: string;
  out_folder: string;
  recipe: string;
  target: string | null;
}

/** Start watching a folder. */
export const useWatchFolder = () => useChange((body: NewFolder) => unwrap(api.POST("/api/watched-folders/", { body })));

/** Pause or resume one, or give it another recipe. */
export const useChangeFolder = () =>
  useChange(({ id, ...body }: { id: string; paused?: boolean; recipe?: string }) => unwrap(api.PATCH("/api/watched-folders/{id}/", { params: { path: { id } }, body })));

/** Stop watching one. */
export const useStopWatching = () => useChange((id: string) => unwrap(api.DELETE("/api/watched-folders/{id}/", { params: { path: { id } } })));
