/** Notifies other windows of this browser of a change, so that they refetch at once. */

const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("zesty-voice");

/** Announce that what the query `key` returns has changed. */
export const notifyOtherWindows = (key: readonly unknown[]) => channel?.postMessage(key);

/** Listen for changes announced by other windows; returns how to stop. */
export function onOtherWindows(changed: (key: readonly unknown[]) => void): () => void {
  const listener = (event: MessageEvent) => changed(event.data as readonly unknown[]);
  channel?.addEventListener("message", listener);
  return () => channel?.removeEventListener("message", listener);
}
