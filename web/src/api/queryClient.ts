import { MutationCache, QueryCache, QueryClient } from "@tanstack/react-query";

import { ApiError } from "./client";

/** Where the answer to who is signed in is kept. */
export const accountKey = ["account"] as const;

/** An answer that one has to sign in first: ask anew who has, so that the way in is shown. */
function lookWhoIsIn(error: Error) {
  if (error instanceof ApiError && error.code === "sign_in") void queryClient.invalidateQueries({ queryKey: accountKey });
}

export const queryClient: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: lookWhoIsIn }),
  mutationCache: new MutationCache({ onError: lookWhoIsIn }),
  defaultOptions: {
    queries: {
      staleTime: 2_000,
      retry: (count, error) => count < 2 && error instanceof ApiError && error.code === "unreachable",
    },
  },
});
