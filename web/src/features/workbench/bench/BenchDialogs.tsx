import Snackbar from "@mui/material/Snackbar";
import { useState } from "react";

import type { Step } from "../../../api/types";
import { sameSteps } from "../../../chains/sameSteps";
import { SaveRecipeDialog } from "../../recipes";
import { BlindPick } from "../BlindPick";
import { DeliverDialog } from "../DeliverDialog";
import { useTheBench } from "./BenchContext";

/** What opens over the workbench: blind pick, delivery, saving a recipe. */
export function BenchDialogs() {
  const { recording, steps, recipes, targets, result, outdated, settled, dialog, setDialog, chain, sounds } = useTheBench();
  const [message, setMessage] = useState<string | null>(null);
  const close = () => setDialog(null);
  const { span, loop } = sounds.passage;
  const recipe = recipes.find((r) => r.id === recording.recipe);
  const changedRecipe = recipe && !sameSteps(recipe.steps as Step[], steps) ? recipe : null;
  return (
    <>
      {span && <BlindPick open={dialog === "pick"} onClose={close} recordingId={recording.id} loop={loop} steps={steps} span={span} />}
      <DeliverDialog open={dialog === "deliver"} onClose={close} recording={recording} targets={targets} result={outdated ? null : result} settle={settled} />
      <SaveRecipeDialog
        open={dialog === "save"} steps={steps} from={changedRecipe} onClose={close}
        onSaved={(name, id) => {
          setMessage(`Saved as “${name}”`);
          chain.applyRecipe(id);
        }}
      />
      <Snackbar open={message !== null} autoHideDuration={4000} onClose={() => setMessage(null)} message={message} />
    </>
  );
}
