/** Tells other windows of this browser that something has changed, so that they look again at once. */

const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("zesty-voice");

/** Say that what is kept under `key` has changed. */
export const tellOtherWindows = (key: readonly unknown[]) => channel?.postMessage(key);

/** Be called with the keys that other windows tell of; returns how to end that. */
export function onOtherWindows(told: (key: readonly unknown[]) => void): () => void {
  const listener = (event: MessageEvent) => told(event.data as readonly unknown[]);
  channel?.addEventListener("message", listener);
  return () => channel?.removeEventListener("message", listener);
}
