import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useRef } from "react";

import { formatTime } from "../../pictures/figures";
import { useBeds, useBringBed } from "../music";
import { newPiece, type TypedPiece } from "./endPieces";

interface Props {
  intro: TypedPiece | null;
  outro: TypedPiece | null;
  onIntro: (piece: TypedPiece | null) => void;
  onOutro: (piece: TypedPiece | null) => void;
}

/** Music before and behind every delivery towards this target. */
export function EndPieceFields({ intro, outro, onIntro, onOutro }: Props) {
  const music = useBeds();
  const bring = useBringBed();
  const picker = useRef<HTMLInputElement>(null);
  const row = (label: string, piece: TypedPiece | null, set: (piece: TypedPiece | null) => void) => (
    <Box role="group" aria-label={label} sx={{ display: "flex", gap: 3, alignItems: "center" }}>
      <TextField
        select size="small" label={label} sx={{ width: 260 }} value={piece?.bed ?? ""} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        onChange={(event) => set(event.target.value === "" ? null : { ...(piece ?? newPiece), bed: event.target.value })}
      >
        <MenuItem value="">none</MenuItem>
        {(music.data ?? []).map((bed) => <MenuItem key={bed.id} value={bed.id}>{bed.name}, {formatTime(bed.duration_s, 0)}</MenuItem>)}
      </TextField>
      {piece && (
        <>
          <TextField size="small" label="Overlap, s" value={piece.overlap_s} onChange={(event) => set({ ...piece, overlap_s: event.target.value })} sx={{ width: 130 }} />
          <TextField size="small" label="Level from voice, LU" value={piece.level_lu} onChange={(event) => set({ ...piece, level_lu: event.target.value })} sx={{ width: 160 }} />
        </>
      )}
    </Box>
  );
  return (
    <Box sx={{ display: "grid", gap: 3 }}>
      <Box sx={{ display: "flex", gap: 3, alignItems: "center" }}>
        <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
          Joined before the final level is set, so the whole file meets the target. The music fades where it overlaps the voice.
        </Typography>
        <Button size="small" variant="outlined" disabled={bring.isPending} onClick={() => picker.current?.click()}>Add music</Button>
        <input
          ref={picker} type="file" accept="audio/*" hidden data-testid="music-picker"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) bring.mutate(file);
          }}
        />
      </Box>
      {row("Intro", intro, onIntro)}
      {row("Outro", outro, onOutro)}
      {(music.error ?? bring.error) && <Alert severity="error">{(music.error ?? bring.error)?.message}</Alert>}
    </Box>
  );
}
