import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, asApiError, csrfToken, unwrap } from "../../api/client";
import type { Recipe, Step } from "../../api/types";

/** Group of the recipes that everybody has from the first start on. */
export const STARTER_GROUP = "To start from";

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

function useRecipeChange<T, R>(change: (input: T) => Promise<R>) {
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
  useRecipeChange(({ id, ...body }: { id: string } & Partial<Pick<Recipe, "name" | "description" | "group" | "steps">>) =>
    unwrap(api.PATCH("/api/recipes/{id}/", { params: { path: { id } }, body })),
  );

/** Delete a recipe; chains made from it stay. */
export const useDeleteRecipe = () =>
  useRecipeChange((id: string) =>
    unwrap(api.DELETE("/api/recipes/{id}/", { params: { path: { id } } })),
  );

/** Take in a recipe document, or an archive of them. */
export const useImportRecipe = () =>
  useRecipeChange(async (file: File) => {
    const answer = await fetch(`/api/recipes/import/?name=${encodeURIComponent(file.name)}`, {
      method: "POST",
      headers: { "X-CSRFToken": csrfToken(), "Content-Type": "application/octet-stream" },
      body: await file.arrayBuffer(),
    });
    if (!answer.ok) throw asApiError(await answer.json().catch(() => null));
  });

/** Another recipe with the same steps. */
export const useCopyRecipe = () =>
  useRecipeChange((id: string) => unwrap(api.POST("/api/recipes/{id}/copy/", { params: { path: { id } } })));

/** Make an earlier version's steps those of a new one. */
export const useGoBack = () =>
  useRecipeChange(({ id, version }: { id: string; version: number }) =>
    unwrap(api.POST("/api/recipes/{id}/go-back/", { params: { path: { id } }, body: { version } })),
  );

/** Versions of a recipe, and where it is used. */
export function useRecipeUse(recipe: Recipe | null) {
  return useQuery({
    queryKey: [...recipesKey, "use", recipe?.id, recipe?.version],
    queryFn: () => unwrap(api.GET("/api/recipes/{id}/use/", { params: { path: { id: recipe?.id ?? "" } } })),
    enabled: recipe !== null,
  });
}
