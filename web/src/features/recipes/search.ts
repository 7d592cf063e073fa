/** Finding recipes: by any word of what they are and do. */

import type { Recipe } from "../../api/types";

/** Recipes that hold every word, in groups by name; those without a group come first. */
export function grouped(recipes: readonly Recipe[], words: string): [string, Recipe[]][] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const groups = new Map<string, Recipe[]>();
  for (const recipe of recipes) {
    const text = [recipe.name, recipe.description, recipe.group, ...recipe.sentences].join(" ").toLowerCase();
    if (wanted.every((word) => text.includes(word))) groups.set(recipe.group ?? "", [...(groups.get(recipe.group ?? "") ?? []), recipe]);
  }
  return [...groups].sort(([a], [b]) => a.localeCompare(b));
}
