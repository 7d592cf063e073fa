import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Recording, Recipe } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { RecipesMenu } from "../recipes";

interface Props {
  chosen: Recording[];
  recipes: Recipe[];
  onClear: () => void;
  onApply: (recipe: Recipe) => void;
  onBatch: () => void;
  onDescribe: () => void;
  onDelete: () => void;
  onHouseVoice: () => void;
}

/** What can be done with the chosen recordings. */
export function SelectionBar({ chosen, recipes, onClear, onApply, onBatch, onDescribe, onDelete, onHouseVoice }: Props) {
  const { colours } = useTheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const measured = chosen.every((r) => r.state === "done");
  const together = chosen.reduce((sum, r) => sum + (r.duration_s ?? 0), 0);
  const quiet = { color: colours.onInk, borderColor: colours.muted };
  return (
    <Box
      role="region"
      aria-label="Chosen recordings"
      sx={{
        position: "sticky", bottom: 16, mt: 4, px: 6, py: 2.5, borderRadius: "15px", display: "flex",
        alignItems: "center", gap: 3, backgroundColor: colours.ink, color: colours.onInk, zIndex: 2,
      }}
    >
      <Typography sx={{ fontWeight: 700 }}>{chosen.length} chosen</Typography>
      <Typography variant="body2" noWrap sx={{ flex: 1, minWidth: 0 }}>
        {chosen.map((r) => r.name).join(", ")}. {formatTime(together)} together
      </Typography>
      <Button variant="text" sx={quiet} onClick={onClear}>
        Clear
      </Button>
      <Button variant="text" sx={quiet} onClick={onDescribe}>
        {chosen.length === 1 ? "Describe" : "Group"}
      </Button>
      <Button variant="text" sx={quiet} onClick={onDelete}>
        Delete
      </Button>
      <Button variant="text" sx={quiet} disabled={!measured} title="Keep what they sound like, to compare others with" onClick={onHouseVoice}>
        House voice
      </Button>
      <Button
        variant="outlined" sx={quiet} aria-haspopup="menu" disabled={recipes.length === 0 || !measured}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        Apply a recipe
      </Button>
      <Button
        variant="contained"
        sx={{ backgroundColor: colours.paper, color: colours.ink, "&:hover": { backgroundColor: colours.pith } }}
        disabled={!measured}
        onClick={onBatch}
      >
        Batch these
      </Button>
      <RecipesMenu recipes={recipes} anchor={anchor} onClose={() => setAnchor(null)} onApply={onApply} />
    </Box>
  );
}
