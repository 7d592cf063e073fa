import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";
import { accountKey } from "../../api/queryClient";
import type { Entry } from "../../api/types";

/** Whether one has to sign in here, and who has. */
export function useAccount() {
  return useQuery({ queryKey: accountKey, queryFn: () => unwrap(api.GET("/api/account/")), staleTime: Infinity });
}

/** Sign in; nothing of whoever was in before is shown any more. */
export function useSignIn() {
  const enter = useEnter();
  return useMutation({
    mutationFn: (body: { name: string; password: string }) => unwrap(api.POST("/api/account/sign-in/", { body })),
    onSuccess: enter,
  });
}

/** Sign out. */
export function useSignOut() {
  const enter = useEnter();
  return useMutation({ mutationFn: () => unwrap(api.POST("/api/account/sign-out/")), onSuccess: enter });
}

function useEnter() {
  const client = useQueryClient();
  return (entry: Entry) => {
    client.removeQueries({ predicate: (query) => query.queryKey[0] !== accountKey[0] });
    client.setQueryData(accountKey, entry);
  };
}

/** Replace one's password. */
export function useChangePassword() {
  return useMutation({ mutationFn: (body: { old: string; new: string }) => unwrap(api.PUT("/api/account/password/", { body })) });
}
