import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

import type { Batch } from "../../api/types";
import { madeWith } from "./progress";

interface Props {
  batches: readonly Batch[];
  /** Id of the earlier one; empty is a new one. */
  value: string;
  onChange: (id: string) => void;
}

/** Choose an earlier batch or delivery to set the next one up as. */
export function SetUpAs({ batches, value, onChange }: Props) {
  if (batches.length === 0) return null;
  return (
    <TextField
      select label="Set up as" size="small" value={batches.some((b) => b.id === value) ? value : ""} onChange={(e) => onChange(e.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }} sx={{ maxWidth: 552 }}
    >
      <MenuItem value="">a new one</MenuItem>
      {batches.map((b) => <MenuItem key={b.id} value={b.id}>{described(b)}</MenuItem>)}
    </TextField>
  );
}

/** A batch among others: its day, its name where it has one of its own, what it was made with. */
function described(batch: Batch): string {
  const day = new Date(batch.created_at).toLocaleDateString(undefined, { day: "numeric", month: "short" });
  return `${day}: ${batch.name === batch.recipe_name ? "" : `${batch.name}, `}${madeWith(batch)}`;
}
