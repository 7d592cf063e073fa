import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import type { Recipe, Step } from "../../api/types";
import { useGoBack, useRecipeUse, useStepTypes } from "./api";
import { differences } from "../../chains/differences";

/** Versions with what changed from one to the next, and where the recipe is used. */
export function RecipeHistory({ recipe }: { recipe: Recipe }) {
  const { colours } = useTheme();
  const use = useRecipeUse(recipe);
  const types = useStepTypes().data ?? [];
  const back = useGoBack();
  const error = use.error ?? back.error;
  if (error) return <Alert severity="error">{error.message}</Alert>;
  if (!use.data) return <Typography variant="body2">Opening …</Typography>;
  const { versions, recordings, batches } = use.data;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "2fr 1fr", gap: 6, mt: 3, p: 4, borderRadius: "14px", backgroundColor: colours.pith }}>
      <Box>
        <Typography variant="h3">Versions</Typography>
        {versions.map((version, i) => {
          const earlier = versions[i + 1];
          const changed = earlier ? differences(earlier.steps as Step[], version.steps as Step[], types) : [];
          return (
            <Box key={version.version} sx={{ display: "flex", gap: 3, alignItems: "center", py: 1.5, borderTop: i > 0 ? `1px solid ${colours.rule}` : "none" }}>
              <Typography sx={{ fontWeight: 650, width: 24 }}>{version.version}</Typography>
              <Box sx={{ flex: 1 }}>
                <Typography variant="body2">{earlier ? changed.join("; ") || "the same steps" : "as first saved"}</Typography>
                <Typography variant="caption" color="textSecondary">
                  {new Date(version.created_at).toLocaleDateString()}, {version.runs === 0 ? "not run" : `${version.runs} run${version.runs === 1 ? "" : "s"}`}
                </Typography>
              </Box>
              {i > 0 && (
                <Button size="small" variant="outlined" disabled={back.isPending} onClick={() => back.mutate({ id: recipe.id, version: version.version })}>
                  Go back to version {version.version}
                </Button>
              )}
            </Box>
          );
        })}
      </Box>
      <Box>
        <Typography variant="h3">Used</Typography>
        {recordings.length + batches.length === 0 && <Typography variant="body2">Nowhere yet.</Typography>}
        <Named title="On recordings" of={recordings} place="recordings" />
        <Named title="In batches" of={batches} place="batches" />
      </Box>
    </Box>
  );
}

function Named({ title, of, place }: { title: string; of: readonly { [key: string]: unknown }[]; place: string }) {
  if (of.length === 0) return null;
  return (
    <>
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mt: 1 }}>{title}</Typography>
      {of.map((one) => (
        <Typography key={String(one.id)} variant="body2">
          <Link to={`/${place}/${String(one.id)}`}>{String(one.name)}</Link>
        </Typography>
      ))}
    </>
  );
}
