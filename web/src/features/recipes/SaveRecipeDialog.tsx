import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useState } from "react";

import type { Recipe, Step } from "../../api/types";
import { useChangeRecipe, useSaveRecipe } from "./api";

interface Props {
  open: boolean;
  steps: Step[];
  /** The recipe the chain came from, whose next version it can become. */
  from?: Recipe | null;
  onClose: () => void;
  onSaved: (name: string, id: string) => void;
}

/** Keep the chain under a name. */
export function SaveRecipeDialog({ open, steps, from = null, onClose, onSaved }: Props) {
  const change = useChangeRecipe();
  const save = useSaveRecipe();
  const [name, setName] = useState("");
  const [description, setDescription] = useState("");
  const submit = () =>
    save.mutate(
      { name, description, steps },
      {
        onSuccess: (saved) => {
          onSaved(name, saved.id);
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
            error={save.isError} helperText={save.error?.message ?? change.error?.message}
          />
          <TextField
            label="What it is for" value={description} multiline minRows={2}
            onChange={(event) => setDescription(event.target.value)}
          />
        </DialogContent>
        <DialogActions sx={{ p: 4, flexWrap: "wrap", gap: 1 }}>
          {from && (
            <Button
              variant="outlined" disabled={change.isPending} sx={{ mr: "auto" }}
              onClick={() =>
                change.mutate(
                  { id: from.id, steps },
                  {
                    onSuccess: () => {
                      onSaved(`${from.name}, version ${from.version + 1}`, from.id);
                      onClose();
                    },
                  },
                )
              }
            >
              As version {from.version + 1} of “{from.name}”
            </Button>
          )}
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
