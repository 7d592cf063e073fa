import Box from "@mui/material/Box";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";

import type { Recipe } from "../../api/types";
import { RecipeWords } from "./RecipeWords";

interface Props {
  recipes: Recipe[];
  /** What was pressed; null while the menu is shut. */
  anchor: HTMLElement | null;
  onClose: () => void;
  onApply: (recipe: Recipe) => void;
}

/** Recipes to choose from, each with what it is for. */
export function RecipesMenu({ recipes, anchor, onClose, onApply }: Props) {
  return (
    <Menu anchorEl={anchor} open={anchor !== null} onClose={onClose}>
      {recipes.map((recipe) => (
        <MenuItem
          key={recipe.id} sx={{ maxWidth: 400, whiteSpace: "normal" }}
          onClick={() => {
            onClose();
            onApply(recipe);
          }}
        >
          <Box>
            <RecipeWords recipe={recipe} />
          </Box>
        </MenuItem>
      ))}
    </Menu>
  );
}
