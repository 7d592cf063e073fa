import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";

import { AskFirst } from "../../app/AskFirst";
import type { Target } from "../../api/types";
import { useBoundedMeasures, useDeleteTarget, useImportTarget, useTargets } from "./api";
import { TargetForm } from "./TargetForm";

/** What deliveries must meet. */
export function TargetsPage() {
  const targets = useTargets();
  const measures = useBoundedMeasures();
  const remove = useDeleteTarget();
  const take = useImportTarget();
  const [open, setOpen] = useState<string | null>(null);
  const [doomed, setDoomed] = useState<Target | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const error = targets.error ?? measures.error ?? remove.error ?? take.error;
  return (
    <Box sx={{ maxWidth: 1000 }}>
      <Box sx={{ display: "flex", alignItems: "end", gap: 2, pt: 2, pb: 4 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">Targets</Typography>
          <Typography variant="body2" color="textSecondary">What a delivery must meet. Each finished file is measured again and judged by these.</Typography>
        </Box>
        <Button variant="outlined" onClick={() => picker.current?.click()}>Import a document</Button>
        <Button variant="contained" onClick={() => setOpen("new")}>New target</Button>
        <input
          ref={picker} type="file" accept=".json" hidden data-testid="target-picker"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) take.mutate(file);
            event.target.value = "";
          }}
        />
      </Box>
      {error && <Alert severity="error" sx={{ mb: 3 }}>{error.message}</Alert>}
      {open === "new" && <TargetForm target={null} measures={measures.data ?? []} onDone={() => setOpen(null)} />}
      {targets.data?.length === 0 && <Typography sx={{ py: 6 }}>No target yet. Make one, or import a document.</Typography>}
      {targets.data?.map((target) =>
        open === target.id ? (
          <TargetForm key={target.id} target={target} measures={measures.data ?? []} onDone={() => setOpen(null)} />
        ) : (
          <TargetRow key={target.id} target={target} onChange={() => setOpen(target.id)} onDelete={() => setDoomed(target)} />
        ),
      )}
      <AskFirst
        open={doomed !== null} title={`Delete the target ${doomed?.name ?? ""}?`} action="Delete" onNo={() => setDoomed(null)}
        onYes={() => {
          if (doomed) remove.mutate(doomed.id);
          setDoomed(null);
        }}
      >
        Recordings that aim at it will have none. Deliveries and receipts keep it as it was.
      </AskFirst>
    </Box>
  );
}

function TargetRow({ target, onChange, onDelete }: { target: Target; onChange: () => void; onDelete: () => void }) {
  const { colours } = useTheme();
  return (
    <Box component="section" aria-label={target.name} sx={{ borderTop: `1px solid ${colours.rule}`, py: 3, display: "flex", gap: 5, alignItems: "start" }}>
      <Box sx={{ width: 300 }}>
        <Typography variant="h3" component="h2">{target.name}</Typography>
        <Typography variant="body2" color="textSecondary">{target.description}</Typography>
      </Box>
      <Box component="ul" sx={{ flex: 1, m: 0, pl: 4, columns: 2, columnGap: 6, fontSize: 13 }}>
        {target.sentences.map((sentence) => <li key={sentence}>{sentence}</li>)}
      </Box>
      <Box sx={{ display: "flex", gap: 1 }}>
        <Button size="small" variant="outlined" onClick={onChange} aria-label={`Change ${target.name}`}>Change</Button>
        <Button size="small" variant="outlined" href={`/api/targets/${target.id}/document/`} download aria-label={`Export ${target.name}`}>Export</Button>
        <Button size="small" variant="text" onClick={onDelete} aria-label={`Delete ${target.name}`}>Delete</Button>
      </Box>
    </Box>
  );
}
