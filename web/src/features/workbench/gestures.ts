let last = 0;

/** A name for a drag or a held key: all it changes is one step of undo. */
export function newGesture(): string {
  last += 1;
  return `gesture ${last}`;
}
