import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";

import type { Proposal, Recipe, Step, StepType } from "../../api/types";
import { PlusIcon } from "../../pictures/icons";
import { RecipeWords } from "../recipes";
import { ProposalNote } from "./ProposalNote";

/** More would not fit below the level path. */
const SHOWN = 8;

interface Props {
  recipes: Recipe[];
  types: StepType[];
  /** Made for this recording; undefined until it is there. */
  proposal: Proposal | undefined;
  /** Where the proposal is set beside the recipes to start from. */
  tasting: string;
  onTake: (steps: Step[]) => void;
  onAddStep: (step: Step) => void;
  onApply: (recipe: Recipe) => void;
  onAdd: (type: StepType) => void;
}

/** Where to begin, below a level path without steps. */
export function EmptyChain({ recipes, types, proposal, tasting, onTake, onAddStep, onApply, onAdd }: Props) {
  const { colours } = useTheme();
  return (
    <Box component="section" aria-label="Where to begin" sx={{ mt: 1.5, display: "flex", flexWrap: "wrap", columnGap: 8, rowGap: 4 }}>
      {proposal && <ProposalNote proposal={proposal} types={types} onTake={onTake} onAdd={onAddStep} tasting={tasting} />}
      {recipes.length > 0 && (
        <Box sx={{ flex: "1 1 560px" }}>
          <Typography variant="h2" sx={{ fontSize: 16 }}>Or begin with a recipe</Typography>
          <Box sx={{ mt: 1, display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(260px, 1fr))", columnGap: 5, rowGap: 0.5 }}>
            {recipes.slice(0, SHOWN).map((recipe) => (
              <ButtonBase
                key={recipe.id} title="Apply this recipe" onClick={() => onApply(recipe)}
                sx={{
                  display: "block", alignSelf: "start", textAlign: "left", py: 1, borderTop: `1px solid ${colours.rule}`,
                  "&:hover": { backgroundColor: colours.pith },
                }}
              >
                <RecipeWords recipe={recipe} />
              </ButtonBase>
            ))}
          </Box>
          {recipes.length > SHOWN && (
            <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
              {recipes.length - SHOWN} more under Apply a recipe.
            </Typography>
          )}
        </Box>
      )}
      <Box sx={{ flex: "1 1 280px", maxWidth: 360 }}>
        <Typography variant="h2" sx={{ fontSize: 16 }}>Or step by step</Typography>
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1, mb: 2 }}>
          In this order as a rule: the first brings every take to one peak, so that all later thresholds mean the same.
        </Typography>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}>
          {types.map((type) => (
            <Button key={type.type} size="small" variant="outlined" startIcon={<PlusIcon size={12} />} title={type.summary} onClick={() => onAdd(type)}>
              {type.label}
            </Button>
          ))}
        </Box>
      </Box>
    </Box>
  );
}
