/** Where the focus goes when what had it is gone: never to the page's very beginning. */

export const STEP_EDITOR = "step-editor";
export const MIRROR = "mirror";

/** Once the page has been drawn, focus a part of it; with `force`, even if something has the focus. */
export function focusSoon(id: string, within = "", force = false): void {
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      if (!force && document.activeElement !== document.body) return;
      const part = document.getElementById(id);
      const target = within === "" ? part : (part?.querySelector<HTMLElement>(within) ?? part);
      target?.focus({ preventScroll: true });
    }),
  );
}
