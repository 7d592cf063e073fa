import { MutationCache, QueryCache, QueryClient } from "@tanstack/react-query";

import { ApiError } from "./client";

/** Where the answer to who is signed in is kept. */
export const accountKey = ["account"] as const;

/** Where recordings are kept, whatever is asked about them. */
export const recordingsKey = ["recordings"] as const;

/**
 * What answers tell of the rest of the page: that one has to sign in first, or that a recording is being
 * decoded again, which its row shows.
 */
function lookAgain(error: Error) {
  if (!(error instanceof ApiError)) return;
  if (error.code === "sign_in") void queryClient.invalidateQueries({ queryKey: accountKey });
  if (error.code === "not_ready") void queryClient.invalidateQueries({ queryKey: recordingsKey, predicate: ({ queryKey }) => queryKey.length < 3 });
}

export const queryClient: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: lookAgain }),
  mutationCache: new MutationCache({ onError: lookAgain }),
  defaultOptions: {
    queries: {
      staleTime: 2_000,
      retry: (count, error) => count < 2 && error instanceof ApiError && error.code === "unreachable",
    },
  },
});
