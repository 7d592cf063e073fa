import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, asApiError, csrfToken, unwrap } from "../../api/client";
import type { Recipe, Step } from "../../api/types";

const recipesKey = ["recipes"] as const;

/** All recipes. */
export function useRecipes() {
  return useQuery({ queryKey: recipesKey, queryFn: () => unwrap(api.GET("/api/recipes/")) });
}

/** Declarations of all steps and their settings; they do not change while the server runs. */
export function useStepTypes() {
  return useQuery({
    queryKey: ["step-types"],
    queryFn: () => unwrap(api.GET("/api/step-types/")),
    staleTime: Infinity,
  });
}

function useRecipeChange<T>(change: (input: T) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => client.invalidateQueries({ queryKey: recipesKey }),
  });
}

/** Keep a chain under a new name. */
export const useSaveRecipe = () =>
  useRecipeChange((body: { name: string; description: string; steps: Step[] }) =>
    unwrap(api.POST("/api/recipes/", { body })),
  );

/** Rename, describe, or replace the steps. */
export const useChangeRecipe = () =>
  useRecipeChange(({ id, ...body }: { id: string } & Partial<Pick<Recipe, "name" | "description">>) =>
    unwrap(api.PATCH("/api/recipes/{id}/", { params: { path: { id } }, body })),
  );

/** Delete a recipe; chains made from it stay. */
export const useDeleteRecipe = () =>
  useRecipeChange((id: string) =>
    unwrap(api.DELETE("/api/recipes/{id}/", { params: { path: { id } } })),
  );

/** Take in a recipe document. */
export const useImportRecipe = () =>
  useRecipeChange(async (file: File) => {
    const answer = await fetch(`/api/recipes/import/?name=${encodeURIComponent(file.name)}`, {
      method: "POST",
      headers: { "X-CSRFToken": csrfToken(), "Content-Type": "application/json" },
      body: await file.text(),
    });
    if (!answer.ok) throw asApiError(await answer.json().catch(() => null));
  });
