import Typography from "@mui/material/Typography";

import type { Recipe } from "../../api/types";

/** Name of a recipe and what it is for, where one is chosen. */
export function RecipeWords({ recipe }: { recipe: Recipe }) {
  return (
    <>
      <Typography sx={{ fontWeight: 650 }}>{recipe.name}</Typography>
      <Typography variant="caption" color="textSecondary" component="p">
        {recipe.description}
      </Typography>
    </>
  );
}
