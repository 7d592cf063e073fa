import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import { useTheme } from "@mui/material/styles";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useRef, useState, type DragEvent } from "react";
import { useNavigate } from "react-router";

import { AskFirst } from "../../app/AskFirst";
import type { Recording } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { PlusIcon } from "../../pictures/icons";
import { useRecipes } from "../recipes";
import { useApplyRecipe, useDeleteRecording, useRecordings } from "./api";
import { RecordingRow } from "./RecordingRow";
import { SelectionBar } from "./SelectionBar";
import { UploadArea } from "./UploadArea";
import { useUploads } from "./uploads";

const ACCEPT = ".wav,.aif,.aiff,.flac,.mp3,.ogg,.oga,.opus,.m4a,.mp4,.aac,audio/*";

/** What came in. */
export function RecordingsPage() {
  const recordings = useRecordings();
  const recipes = useRecipes();
  const apply = useApplyRecipe();
  const remove = useDeleteRecording();
  const { uploads, add, dismiss } = useUploads();
  const navigate = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const [chosenIds, setChosenIds] = useState<ReadonlySet<string>>(new Set());
  const [search, setSearch] = useState("");
  const [over, setOver] = useState(false);
  const [asking, setAsking] = useState(false);

  const all = recordings.data ?? [];
  const wanted = search.trim().toLowerCase();
  const shown = all.filter((r) => `${r.name} ${r.label ?? ""}`.toLowerCase().includes(wanted));
  const chosen = all.filter((r) => chosenIds.has(r.id));
  const choose = (id: string, on: boolean) => {
    const next = new Set(chosenIds);
    if (on) next.add(id);
    else next.delete(id);
    setChosenIds(next);
  };
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    add(event.dataTransfer.files);
  };
  const error = recordings.error ?? apply.error ?? remove.error;

  return (
    <Box
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (event.currentTarget === event.target) setOver(false);
      }}
      onDrop={onDrop}
      sx={{ minHeight: "calc(100vh - 40px)" }}
    >
      <Box sx={{ display: "flex", alignItems: "end", gap: 3, pt: 2, pb: 4 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">Recordings</Typography>
          <Typography variant="body2" color="textSecondary">
            {summary(all)} Originals stay as they came.
          </Typography>
        </Box>
        <TextField
          variant="standard" placeholder="Name, role or room" value={search}
          onChange={(event) => setSearch(event.target.value)}
          slotProps={{ htmlInput: { "aria-label": "Find recordings", type: "search" } }}
        />
        <Button
          variant="contained" startIcon={<PlusIcon size={16} />}
          onClick={() => picker.current?.click()}
        >
          Add files
        </Button>
        <input
          ref={picker} type="file" multiple accept={ACCEPT} hidden data-testid="file-picker"
          onChange={(event) => {
            add(event.target.files ?? []);
            event.target.value = "";
          }}
        />
      </Box>
      {error && (
        <Alert severity="error" sx={{ mb: 3 }}>
          {error.message}
        </Alert>
      )}
      {all.length > 0 && (
        <RecordingsTable
          shown={shown} chosenIds={chosenIds} onChoose={choose}
          onChooseAll={(on) =>
            setChosenIds(new Set(on ? shown.filter((r) => r.state === "done").map((r) => r.id) : []))
          }
        />
      )}
      {recordings.isSuccess && all.length > 0 && shown.length === 0 && (
        <Typography sx={{ p: 4 }}>No recording is called that.</Typography>
      )}
      <UploadArea uploads={uploads} over={over} onDismiss={dismiss} />
      {chosen.length > 0 && (
        <SelectionBar
          chosen={chosen}
          recipes={recipes.data ?? []}
          onClear={() => setChosenIds(new Set())}
          onApply={(recipe) => apply.mutate({ ids: chosen.map((r) => r.id), recipe: recipe.id })}
          onBatch={() => navigate("/batches", { state: { recordings: chosen.map((r) => r.id) } })}
          onDelete={() => setAsking(true)}
        />
      )}
      <AskFirst
        open={asking}
        title={chosen.length === 1 ? `Delete ${chosen[0]?.name ?? ""}?` : `Delete ${chosen.length} recordings?`}
        action="Delete"
        onNo={() => setAsking(false)}
        onYes={async () => {
          setAsking(false);
          for (const recording of chosen) await remove.mutateAsync(recording.id);
          setChosenIds(new Set());
        }}
      >
        The original files in this application and all their results go with them.
      </AskFirst>
    </Box>
  );
}

function summary(all: Recording[]): string {
  if (all.length === 0) return "None yet.";
  const total = all.reduce((sum, r) => sum + (r.duration_s ?? 0), 0);
  return `${all.length} recording${all.length === 1 ? "" : "s"}, ${formatTime(total)} in all.`;
}

interface TableProps {
  shown: Recording[];
  chosenIds: ReadonlySet<string>;
  onChoose: (id: string, on: boolean) => void;
  onChooseAll: (on: boolean) => void;
}

function RecordingsTable({ shown, chosenIds, onChoose, onChooseAll }: TableProps) {
  const { colours } = useTheme();
  const count = shown.filter((r) => chosenIds.has(r.id)).length;
  const head = (text: string, unit: string, align: "left" | "right" = "left") => (
    <TableCell align={align} sx={{ lineHeight: 1.3 }}>
      <Typography variant="body2" sx={{ fontWeight: 650 }}>
        {text}
      </Typography>
      <Typography variant="caption" color="textSecondary">
        {unit}
      </Typography>
    </TableCell>
  );
  return (
    <Table sx={{ "& th": { borderBottom: `1.5px solid ${colours.ink}`, py: 1.5, px: 2 } }}>
      <TableHead>
        <TableRow>
          <TableCell padding="none" sx={{ width: 44 }}>
            <Checkbox
              checked={count > 0 && count === shown.length}
              indeterminate={count > 0 && count < shown.length}
              onChange={(event) => onChooseAll(event.target.checked)}
              slotProps={{ input: { "aria-label": "Choose all shown" } }}
            />
          </TableCell>
          {head("Recording", "newest first")}
          <TableCell>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
              <span style={{ color: colours.beforeText }}>Before</span> over{" "}
              <span style={{ color: colours.afterText }}>after</span>
            </Typography>
            <Typography variant="caption" color="textSecondary">
              dB scale
            </Typography>
          </TableCell>
          {head("Peak", "dBTP", "right")}
          {head("Voice", "dBFS", "right")}
          {head("Noise", "dBFS", "right")}
          {head("Clearance", "dB, with noise ▫ voice ● peak ▵")}
          {head("Chain", "and result")}
        </TableRow>
      </TableHead>
      <TableBody>
        {shown.map((recording) => (
          <RecordingRow
            key={recording.id}
            recording={recording}
            selected={chosenIds.has(recording.id)}
            onSelect={(on) => onChoose(recording.id, on)}
          />
        ))}
      </TableBody>
    </Table>
  );
}
