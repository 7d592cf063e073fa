/** What a batch is to do, as it is composed. */

import type { Batch, FileWish, StartBatch } from "../../api/types";

export interface Order {
  name: string;
  /** Empty: each recording's own chain. */
  recipe: string;
  /** Empty: none. */
  target: string;
  file: FileWish;
  pattern: string;
  setLevel: "alike" | "keep";
  tags: Record<string, string>;
  cover: string;
  /** Tags and cover that files came with stay, where nothing else is asked for. */
  keepTags: boolean;
  /** By recording: a name and tags of its own. */
  own: Record<string, { name?: string; tags?: Record<string, string> }>;
}

export const TAGS = ["title", "artist", "album", "genre", "year", "track", "comment"] as const;
export type Tag = (typeof TAGS)[number];

export const emptyOrder: Order = {
  name: "", recipe: "", target: "", file: {}, pattern: "{title}", setLevel: "alike", tags: { title: "{title}" }, cover: "", keepTags: true, own: {},
};

/** What an earlier batch was asked for, to ask for it again; what its files had of their own stays with them. */
export function asBefore(batch: Batch): Order {
  return {
    own: {}, name: batch.name === batch.recipe_name ? "" : batch.name, recipe: batch.recipe ?? "", target: batch.ordered_target ?? "",
    file: batch.file, pattern: batch.name_pattern, setLevel: batch.set_level === "keep" ? "keep" : "alike", tags: batch.tags, cover: batch.cover, keepTags: true,
  };
}

/** The same for one file with a chain of its own; title and track were of another file, unless they are patterns. */
export function asBeforeForOne(batch: Batch, target: string): Order {
  const { title = "", track = "", ...tags } = batch.tags;
  const pattern = (text: string) => text.includes("{");
  return {
    ...asBefore(batch), name: "", recipe: "", setLevel: "alike", target: batch.ordered_target ?? target,
    tags: { ...tags, title: pattern(title) ? title : "{title}", ...(pattern(track) && { track }) },
  };
}

/** What an earlier batch had that is not there any more and that nothing was chosen for, in words. */
export function goneSince(batch: Batch, order: Order): string[] {
  return [
    ...(batch.recipe_name && !batch.recipe && !order.recipe ? [`The recipe ${batch.recipe_name} is not there any more.`] : []),
    ...(batch.target_name && !batch.ordered_target && !order.target ? [`The target ${batch.target_name} is not there any more.`] : []),
  ];
}

/** Tags without those left empty. */
export const filled = (tags: Record<string, string>) => Object.fromEntries(Object.entries(tags).filter(([, text]) => text.trim() !== ""));

/** As the server wants it; what is empty is left out. */
export function asBody(order: Order, recordings: string[]): StartBatch {
  const own = Object.fromEntries(
    recordings.flatMap((id) => {
      const { name = "", tags = {} } = order.own[id] ?? {};
      const kept = filled(tags);
      return name.trim() === "" && Object.keys(kept).length === 0 ? [] : [[id, { name: name.trim(), tags: kept }] as const];
    }),
  );
  return {
    recordings, name: order.name, recipe: order.recipe || null, target: order.target || null,
    file: order.file, name_pattern: order.pattern, set_level: order.setLevel, tags: filled(order.tags), cover: order.cover, keep_tags: order.keepTags, own,
  };
}

/** A name of a recording's own is a pattern as well: braces in it mean fields. */
export function withOwn(order: Order, id: string, change: { name?: string; tag?: readonly [string, string] }): Order {
  const was = order.own[id] ?? {};
  const tags = change.tag ? { ...was.tags, [change.tag[0]]: change.tag[1] } : was.tags;
  const next = { ...was, ...(change.name !== undefined && { name: change.name }), ...(tags && { tags }) };
  return { ...order, own: { ...order.own, [id]: next } };
}
