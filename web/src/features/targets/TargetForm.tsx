import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Bound, BoundedMeasure, FileWish, Target } from "../../api/types";
import { parseQuantity } from "../../pictures/quantity";
import { useSaveTarget } from "./api";
import { EndPieceFields } from "./EndPieceFields";
import { pieceOf, typedPiece } from "./endPieces";
import { FileWishFields } from "./FileWishFields";

interface Props {
  /** The one to change; null makes a new one. */
  target: Target | null;
  measures: readonly BoundedMeasure[];
  onDone: () => void;
}

type Typed = Record<string, Partial<Record<keyof Bound, string>>>;
const LIMITS = [["low", "at least"], ["high", "at most"], ["aim", "aim at"]] as const;

/** What is typed, as the document wants it; a text that is no number goes as it is, to be refused. */
export function boundsOf(typed: Typed, measures: readonly BoundedMeasure[]): Record<string, Bound> {
  const made: Record<string, Bound> = {};
  for (const [measure, fields] of Object.entries(typed)) {
    const unit = measures.find((m) => m.name === measure)?.unit ?? "";
    const known = LIMITS.flatMap(([name]) => {
      const text = fields[name]?.trim() ?? "";
      return text === "" ? [] : [[name, parseQuantity(text, unit) ?? text] as const];
    });
    if (known.length > 0) made[measure] = Object.fromEntries(known);
  }
  return made;
}

/** Name, bounds, kind of file, intro and outro of a target. */
export function TargetForm({ target, measures, onDone }: Props) {
  const { colours } = useTheme();
  const save = useSaveTarget();
  const [name, setName] = useState(target?.name ?? "");
  const [description, setDescription] = useState(target?.description ?? "");
  const [file, setFile] = useState<FileWish>(target?.file ?? {});
  const [intro, setIntro] = useState(() => typedPiece(target?.intro));
  const [outro, setOutro] = useState(() => typedPiece(target?.outro));
  const [typed, setTyped] = useState<Typed>(() =>
    Object.fromEntries(
      Object.entries(target?.bounds ?? {}).map(([measure, bound]) => [
        measure,
        Object.fromEntries(Object.entries(bound).map(([k, v]) => [k, v === null ? "" : String(v)])),
      ]),
    ),
  );
  const submit = () =>
    save.mutate({ id: target?.id ?? null, body: { name, description, bounds: boundsOf(typed, measures), file, intro: pieceOf(intro), outro: pieceOf(outro) } }, { onSuccess: onDone });
  return (
    <Box component="form" aria-label={target ? `Change ${target.name}` : "New target"} onSubmit={(event) => { event.preventDefault(); submit(); }}
      sx={{ border: `1.5px solid ${colours.ink}`, borderRadius: "14px", backgroundColor: colours.card, p: 4, mb: 4, display: "grid", gap: 3 }}
    >
      <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap" }}>
        <TextField label="Name" size="small" required autoFocus value={name} onChange={(e) => setName(e.target.value)} sx={{ width: 260 }} />
        <TextField label="What it is for" size="small" value={description} onChange={(e) => setDescription(e.target.value)} sx={{ flex: "1 1 320px" }} />
      </Box>
      <Box component="table" sx={{ borderCollapse: "collapse", "& td": { py: 0.5, pr: 3 }, "& th": { textAlign: "left", fontSize: 13, pr: 3 } }}>
        <thead>
          <tr><th scope="col">Measure</th>{LIMITS.map(([, words]) => <th key={words} scope="col">{words}</th>)}<th scope="col">Measured by</th></tr>
        </thead>
        <tbody>
          {measures.map((measure) => (
            <tr key={measure.name}>
              <td title={measure.help}>{measure.label}, {measure.unit}</td>
              {LIMITS.map(([limit, words]) => (
                <td key={limit}>
                  <TextField
                    size="small" sx={{ width: 96 }} value={typed[measure.name]?.[limit] ?? ""} placeholder="free"
                    slotProps={{ htmlInput: { "aria-label": `${measure.label} ${words}`, inputMode: "decimal", style: { padding: "3px 8px", textAlign: "right" } } }}
                    onChange={(e) => setTyped({ ...typed, [measure.name]: { ...typed[measure.name], [limit]: e.target.value } })}
                  />
                </td>
              ))}
              <td><Typography variant="caption" color="textSecondary">{measure.help}</Typography></td>
            </tr>
          ))}
        </tbody>
      </Box>
      <FileWishFields value={file} onChange={setFile} free="as recorded" />
      <EndPieceFields intro={intro} outro={outro} onIntro={setIntro} onOutro={setOutro} />
      {save.error && <Alert severity="error">{save.error.message}</Alert>}
      <Box sx={{ display: "flex", gap: 2 }}>
        <Button type="submit" variant="contained" disabled={save.isPending || name.trim() === ""}>Keep target</Button>
        <Button variant="outlined" onClick={onDone}>Cancel</Button>
      </Box>
    </Box>
  );
}
