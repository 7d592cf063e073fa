export { RecipeWords } from "./RecipeWords";
export { RecipesMenu } from "./RecipesMenu";
export { RecipesPage } from "./RecipesPage";
export { SaveRecipeDialog } from "./SaveRecipeDialog";
export { STARTER_GROUP, useRecipes, useStepTypes } from "./api";
