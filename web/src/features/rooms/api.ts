import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, unwrap } from "../../api/client";

const roomsKey = ["room-tones"] as const;

/** All room tones kept. */
export function useRoomTones() {
  return useQuery({ queryKey: roomsKey, queryFn: () => unwrap(api.GET("/api/room-tones/")) });
}

/** Delete a room tone; recordings that used it look for their own again. */
export function useDeleteRoomTone() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      unwrap(api.DELETE("/api/room-tones/{id}/", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: roomsKey }),
  });
}

/** Rename a room tone. */
export function useRenameRoomTone() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ id, name }: { id: string; name: string }) =>
      unwrap(api.PATCH("/api/room-tones/{id}/", { params: { path: { id } }, body: { name } })),
    onSuccess: () => client.invalidateQueries({ queryKey: roomsKey }),
  });
}
