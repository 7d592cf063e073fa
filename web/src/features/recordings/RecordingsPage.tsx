import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import { useTheme } from "@mui/material/styles";
import MenuItem from "@mui/material/MenuItem";
import Snackbar from "@mui/material/Snackbar";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import TableSortLabel from "@mui/material/TableSortLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useDeferredValue, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { AskFirst } from "../../app/AskFirst";
import type { Recipe, Recording } from "../../api/types";
import { formatTime } from "../../pictures/figures";
import { PlusIcon } from "../../pictures/icons";
import { HouseVoiceDialog } from "../houseVoices";
import { useRecipes } from "../recipes";
import { useApplyRecipe, useChainsBack, useDeleteRecording, useRecordings, useTakeBack } from "./api";
import { DescribeDialog } from "./DescribeDialog";
import { chosenInOrder, EVERYTHING, groupChoices, KINDS, listed, NEWEST, pressed, type Filter, type Order, type SortKey } from "./listOrder";
import { RecordingRow } from "./RecordingRow";
import { SelectionBar } from "./SelectionBar";
import { UploadArea } from "./UploadArea";
import { useForgetUpload, useUnfinishedUploads } from "./uploads";
import { useUploads } from "./UploadsProvider";
import { usePastedFiles } from "./usePastedFiles";

const ACCEPT = ".wav,.aif,.aiff,.flac,.mp3,.ogg,.oga,.opus,.m4a,.mp4,.aac,audio/*";

/** What came in. */
export function RecordingsPage() {
  const recordings = useRecordings();
  const recipes = useRecipes();
  const apply = useApplyRecipe();
  const remove = useDeleteRecording();
  const { uploads, add, dismiss, over } = useUploads();
  const unfinished = useUnfinishedUploads();
  const forget = useForgetUpload();
  usePastedFiles(add);
  const navigate = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const [chosenIds, setChosenIds] = useState<ReadonlySet<string>>(new Set());
  const [filter, setFilter] = useState<Filter>(EVERYTHING);
  const [order, setOrder] = useState<Order>(NEWEST);
  const [describing, setDescribing] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const [deleted, setDeleted] = useState<Recording[]>([]);
  const takeBack = useTakeBack();
  /** Recordings as they were before a recipe took the place of their chains. */
  const [replaced, setReplaced] = useState<{ by: string; before: Recording[] } | null>(null);
  const chainsBack = useChainsBack();
  const [asking, setAsking] = useState(false);

  const all = recordings.data ?? [];
  // What is typed is there at once, the rows follow.
  const shown = listed(all, useDeferredValue(filter), order);
  const groups = groupChoices(all);
  const chosen = chosenInOrder(all, shown, chosenIds);
  const applyToChosen = (recipe: Recipe) => {
    const applied = new Set<string>();
    apply.mutate(
      { ids: chosen.map((r) => r.id), recipe: recipe.id, onApplied: (id) => applied.add(id) },
      // Where it fails half-way, what was done can be taken back.
      { onSettled: () => applied.size > 0 && setReplaced({ by: recipe.name, before: chosen.filter((r) => applied.has(r.id)) }) },
    );
  };
  const error = recordings.error ?? apply.error ?? remove.error ?? takeBack.error ?? chainsBack.error;

  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "end", gap: 3, pt: 2, pb: 4 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">Recordings</Typography>
          <Typography variant="body2" color="textSecondary">
            {recordings.isPending ? "Loading the list ..." : `${summary(all)} Originals stay as they came.`}
          </Typography>
        </Box>
        <TextField
          select variant="standard" value={filter.only} sx={{ minWidth: 150 }}
          onChange={(event) => setFilter({ ...filter, only: event.target.value })}
          slotProps={{ select: { inputProps: { "aria-label": "Show only" } } }}
        >
          {[...KINDS, ...groups].map(([value, words]) => (
            <MenuItem key={value} value={value}>
              {words}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          variant="standard" placeholder="Name, role, notes" value={filter.words}
          onChange={(event) => setFilter({ ...filter, words: event.target.value })}
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
          shown={shown} chosenIds={chosenIds} onChoose={setChosenIds} order={order}
          onSort={(key) => setOrder(pressed(order, key))}
          onChooseAll={(on) =>
            setChosenIds(new Set(on ? shown.filter((r) => r.state === "done").map((r) => r.id) : []))
          }
        />
      )}
      {recordings.isSuccess && all.length > 0 && shown.length === 0 && (
        <Typography sx={{ p: 4 }}>
          No recording is like that.{" "}
          <Button variant="text" onClick={() => setFilter(EVERYTHING)}>
            Show all
          </Button>
        </Typography>
      )}
      <UploadArea
        uploads={uploads} unfinished={unfinished.data ?? []} over={over} onDismiss={dismiss}
        onForget={(id) => void forget(id)}
      />
      {chosen.length > 0 && (
        <SelectionBar
          chosen={chosen}
          recipes={recipes.data ?? []}
          onClear={() => setChosenIds(new Set())}
          onApply={applyToChosen}
          onBatch={() => navigate("/batches", { state: { recordings: chosen.map((r) => r.id) } })}
          onDescribe={() => setDescribing(true)} onHouseVoice={() => setKeeping(true)}
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
          setDeleted(chosen);
          setChosenIds(new Set());
        }}
      >
        They can be taken back now; after 30 days they go for good, with all their results.
      </AskFirst>
      {keeping && <HouseVoiceDialog recordings={chosen} onClose={() => setKeeping(false)} />}
      {describing && chosen.length > 0 && (
        <DescribeDialog
          recordings={chosen} groups={groups.map(([, name]) => name)} onClose={() => setDescribing(false)}
        />
      )}
      <Snackbar
        open={deleted.length > 0} onClose={(_, why) => why !== "clickaway" && setDeleted([])}
        message={`${deleted.length === 1 ? (deleted[0]?.name ?? "") : `${deleted.length} recordings`} deleted`}
        action={
          <Button
            size="small" sx={{ color: "inherit" }}
            onClick={() => takeBack.mutate(deleted.map((r) => r.id), { onSettled: () => setDeleted([]) })}
          >
            Take back
          </Button>
        }
        autoHideDuration={30_000}
      />
      <Snackbar
        // Above the bar of what is chosen, which stays.
        open={replaced !== null} onClose={(_, why) => why !== "clickaway" && setReplaced(null)} sx={{ "&&": { bottom: 104 } }}
        message={`${replaced?.by ?? ""} is the chain of ${replaced?.before.length === 1 ? (replaced.before[0]?.name ?? "") : `${replaced?.before.length ?? 0} recordings`}`}
        action={
          <Button
            size="small" sx={{ color: "inherit" }}
            onClick={() => chainsBack.mutate(replaced?.before ?? [], { onSettled: () => setReplaced(null) })}
          >
            Take back
          </Button>
        }
        autoHideDuration={30_000}
      />
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
  onChoose: (change: (chosen: ReadonlySet<string>) => ReadonlySet<string>) => void;
  onChooseAll: (on: boolean) => void;
  order: Order;
  onSort: (key: SortKey) => void;
}

const AT_ONCE = 20;

function RecordingsTable({ shown, chosenIds, onChoose, onChooseAll, order, onSort }: TableProps) {
  const { colours } = useTheme();
  // Those that fill the window come at once, hundreds more a moment later.
  const drawn = useDeferredValue(shown, shown.slice(0, AT_ONCE));
  const count = shown.filter((r) => chosenIds.has(r.id)).length;
  const head = (text: string, unit: string, key: SortKey, align: "left" | "right" = "left") => (
    <TableCell
      align={align} sx={{ lineHeight: 1.3 }}
      sortDirection={order.key === key ? (order.down ? "desc" : "asc") : false}
    >
      <TableSortLabel
        active={order.key === key} direction={order.key === key && !order.down ? "asc" : "desc"}
        onClick={() => onSort(key)} sx={{ fontWeight: 650, fontSize: 13 }}
      >
        {text}
      </TableSortLabel>
      <Typography variant="caption" component="p" color="textSecondary">
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
          {head("Recording", order.key === "came" ? "newest first" : "by the column marked", "name")}
          <TableCell>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
              <span style={{ color: colours.beforeText }}>Before</span> over{" "}
              <span style={{ color: colours.afterText }}>after</span>
            </Typography>
            <Typography variant="caption" color="textSecondary">
              dB scale
            </Typography>
          </TableCell>
          {head("Peak", "dBTP", "peak", "right")}
          {head("Voice", "dBFS", "voice", "right")}
          {head("Noise", "dBFS", "noise", "right")}
          {head("Clearance", "dB: noise ▫ voice ● peak ▵", "clearance")}
          {head("Advice", "findings", "advice", "right")}
          <TableCell sx={{ lineHeight: 1.3 }}>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
              Chain
            </Typography>
            <Typography variant="caption" color="textSecondary">
              and result
            </Typography>
          </TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {drawn.map((recording) => (
          <RecordingRow
            key={recording.id}
            recording={recording}
            selected={chosenIds.has(recording.id)}
            onChoose={onChoose}
          />
        ))}
      </TableBody>
    </Table>
  );
}
