export { RecipeWords } from "./RecipeWords";
export { RecipesMenu } from "./RecipesMenu";
export { RecipesPage } from "./RecipesPage";
export { SaveRecipeDialog } from "./SaveRecipeDialog";
export { useRecipes, useStepTypes } from "./api";
