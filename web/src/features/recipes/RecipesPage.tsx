import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";

import { AskFirst } from "../../app/AskFirst";
import type { Recipe } from "../../api/types";
import { useChangeRecipe, useCopyRecipe, useDeleteRecipe, useImportRecipe, useRecipes } from "./api";
import { RecipeHistory } from "./RecipeHistory";
import { grouped } from "./search";

/** The library of saved chains. */
export function RecipesPage() {
  const recipes = useRecipes();
  const remove = useDeleteRecipe();
  const take = useImportRecipe();
  const [doomed, setDoomed] = useState<Recipe | null>(null);
  const [words, setWords] = useState("");
  const groups = grouped(recipes.data ?? [], words);
  const picker = useRef<HTMLInputElement>(null);
  const error = recipes.error ?? remove.error ?? take.error;
  return (
    <Box sx={{ maxWidth: 1000 }}>
      <Box sx={{ display: "flex", alignItems: "end", gap: 2, pt: 2, pb: 4 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">Recipes</Typography>
          <Typography variant="body2" color="textSecondary">
            Saved chains. A recording keeps its own copy, so changing a recipe changes no result.
          </Typography>
        </Box>
        <TextField size="small" label="Search" value={words} onChange={(event) => setWords(event.target.value)} sx={{ width: 200 }} />
        <Button variant="outlined" href="/api/recipes/archive/" download>Export all</Button>
        <Button variant="outlined" onClick={() => picker.current?.click()}>
          Import
        </Button>
        <input
          ref={picker} type="file" accept=".json,.zip" hidden data-testid="recipe-picker"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) take.mutate(file);
            event.target.value = "";
          }}
        />
      </Box>
      {error && (
        <Alert severity="error" sx={{ mb: 3 }}>
          {error.message}
        </Alert>
      )}
      {recipes.data?.length === 0 && (
        <Typography sx={{ py: 6 }}>
          No recipe yet. Build a chain on a recording, then choose “Save as recipe”.
        </Typography>
      )}
      {groups.length === 0 && words !== "" && <Typography sx={{ py: 6 }}>No recipe has all of these words.</Typography>}
      {groups.map(([group, members]) => (
        <Box key={group} component="section" aria-label={group || "Recipes"}>
          {group !== "" && <Typography variant="h2" sx={{ mt: 6, mb: 2 }}>{group}</Typography>}
          {members.map((recipe) => <RecipeCard key={recipe.id} recipe={recipe} onDelete={() => setDoomed(recipe)} />)}
        </Box>
      ))}
      <AskFirst
        open={doomed !== null}
        title={`Delete the recipe ${doomed?.name ?? ""}?`}
        action="Delete"
        onNo={() => setDoomed(null)}
        onYes={() => {
          if (doomed) remove.mutate(doomed.id);
          setDoomed(null);
        }}
      >
        Chains made from it stay as they are on their recordings.
      </AskFirst>
    </Box>
  );
}

function RecipeCard({ recipe, onDelete }: { recipe: Recipe; onDelete: () => void }) {
  const { colours } = useTheme();
  const change = useChangeRecipe();
  const copy = useCopyRecipe();
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  const [name, setName] = useState<string | null>(null);
  const rename = () => {
    if (name === null) return;
    if (name.trim() === recipe.name) setName(null);
    else change.mutate({ id: recipe.id, name }, { onSuccess: () => setName(null) });
  };
  return (
    <Box
      component="section"
      aria-label={recipe.name}
      sx={{ borderTop: `1px solid ${colours.rule}`, py: 4 }}
    >
      <Box sx={{ display: "flex", gap: 6 }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {name === null ? (
          <Typography variant="h2">{recipe.name}</Typography>
        ) : (
          <TextField
            size="small" label="Name" value={name} autoFocus fullWidth
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === "Enter") rename();
              if (event.key === "Escape") setName(null);
            }}
            onBlur={rename}
            error={change.isError} helperText={change.error?.message}
          />
        )}
        <Typography variant="caption" color="textSecondary">
          version {recipe.version}, {recipe.steps.length} step{recipe.steps.length === 1 ? "" : "s"}
        </Typography>
        <GroupField recipe={recipe} />
        {recipe.description && <Typography sx={{ mt: 1 }}>{recipe.description}</Typography>}
        <Box component="ol" sx={{ m: 0, mt: 2, pl: 5, color: colours.muted, fontSize: 13 }}>
          {recipe.sentences.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </Box>
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 2, width: 150 }}>
        <Button
          variant="contained"
          onClick={() => navigate("/batches", { state: { recipe: recipe.id } })}
        >
          Apply in a batch
        </Button>
        <Button variant="outlined" size="small" onClick={() => setName(recipe.name)}>
          Rename
        </Button>
        <Button variant="outlined" size="small" aria-expanded={open} onClick={() => setOpen(!open)}>
          Version history
        </Button>
        <Button variant="outlined" size="small" disabled={copy.isPending} onClick={() => copy.mutate(recipe.id)}>
          Copy
        </Button>
        <Button variant="outlined" size="small" href={`/api/recipes/${recipe.id}/document/`} download>
          Export
        </Button>
        <Button variant="text" size="small" onClick={onDelete}>
          Delete
        </Button>
      </Box>
      </Box>
      {open && <RecipeHistory recipe={recipe} />}
    </Box>
  );
}

/** Group of a recipe, changed in place. */
function GroupField({ recipe }: { recipe: Recipe }) {
  const change = useChangeRecipe();
  const [group, setGroup] = useState<string | null>(null);
  if (group === null) {
    return (
      <Button size="small" variant="text" onClick={() => setGroup(recipe.group ?? "")} sx={{ ml: 2, py: 0, fontWeight: 400, color: "text.secondary" }}>
        {recipe.group ? `in ${recipe.group}` : "no group"}
      </Button>
    );
  }
  const keep = () => change.mutate({ id: recipe.id, group }, { onSuccess: () => setGroup(null) });
  return (
    <TextField
      size="small" variant="standard" autoFocus value={group} sx={{ ml: 2, width: 160 }} onChange={(event) => setGroup(event.target.value)} onBlur={keep}
      slotProps={{ htmlInput: { "aria-label": "Group" } }}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
        if (event.key === "Escape") setGroup(null);
      }}
    />
  );
}
