import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useState } from "react";

import type { Step } from "../../api/types";
import { useSaveRecipe } from "./api";

interface Props {
  open: boolean;
  steps: Step[];
  onClose: () => void;
  onSaved: (name: string) => void;
}

/** Keep the chain under a name. */
export function SaveRecipeDialog({ open, steps, onClose, onSaved }: Props) {
  const save = useSaveRecipe();
  const [name, setName] = useState("");
  const [description, setDescription] = useState("");
  const submit = () =>
    save.mutate(
      { name, description, steps },
      {
        onSuccess: () => {
          onSaved(name);
          onClose();
        },
      },
    );
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="save-recipe" fullWidth maxWidth="xs">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <DialogTitle id="save-recipe" component="h2">
          Save the chain as a recipe
        </DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 4, pt: "8px !important" }}>
          <TextField
            label="Name" value={name} required autoFocus
            onChange={(event) => setName(event.target.value)}
            error={save.isError} helperText={save.error?.message}
          />
          <TextField
            label="What it is for" value={description} multiline minRows={2}
            onChange={(event) => setDescription(event.target.value)}
          />
        </DialogContent>
        <DialogActions sx={{ p: 4 }}>
          <Button variant="outlined" onClick={onClose}>
            Cancel
          </Button>
          <Button variant="contained" type="submit" disabled={save.isPending || name.trim() === ""}>
            Save recipe
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
