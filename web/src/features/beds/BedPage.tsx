import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";

import type { Params, Run, Setting } from "../../api/types";
import { AskFirst } from "../../app/AskFirst";
import { noEdits } from "../../audio/cutTimes";
import { useLoop } from "../../audio/usePlayer";
import { formatDb, formatTime } from "../../pictures/figures";
import { DownloadIcon } from "../../pictures/icons";
import { useWidth } from "../../pictures/useWidth";
import { SidePlayer } from "../compare";
import { useBeds, useBringBed, useDeleteBed } from "../music";
import { useRecording } from "../recordings";
import { useRuns } from "../runs";
import { useTargets } from "../targets";
import { SettingField } from "../workbench";
import { useBedSettings, useLaidBed, useMixes } from "./api";
import { CLEAR_DB, DistancePicture } from "./DistancePicture";
import { MixDialog } from "./MixDialog";
import { MixList } from "./MixList";

/** Voice and mix are compared at their own levels: what is left is the bed. */
const AS_THEY_ARE = { louderDb: null, voiceGainDb: 0 };
const HEARD_S = 20;

/** A finished voice over a music bed. */
export function BedPage() {
  const { recordingId = "" } = useParams();
  const runs = useRuns(recordingId);
  const settings = useBedSettings();
  const run = runs.data?.find((r) => r.state === "done" && r.batch === null) ?? runs.data?.find((r) => r.state === "done");
  if (runs.error ?? settings.error) return <Alert severity="error" sx={{ mt: 3 }}>{(runs.error ?? settings.error)?.message}</Alert>;
  if (!runs.data || !settings.data) return <Typography sx={{ pt: 4 }}>Opening …</Typography>;
  if (!run) {
    return (
      <Box sx={{ pt: 2 }}>
        <Typography variant="h1">Nothing to lay on a bed yet</Typography>
        <Typography sx={{ mt: 3 }}>Run the chain first; its result is what is heard over the music. <Link to={`/recordings/${recordingId}`}>Go to the workbench</Link></Typography>
      </Box>
    );
  }
  return <OverBed run={run} settings={settings.data} />;
}

const usual = (settings: readonly Setting[]): Params => Object.fromEntries(settings.map((s) => [s.name, s.default as number]));

function OverBed({ run, settings }: { run: Run; settings: readonly Setting[] }) {
  const { colours } = useTheme();
  const beds = useBeds();
  const bring = useBringBed();
  const recording = useRecording(run.recording);
  const targets = useTargets();
  const mixes = useMixes(run.recording);
  const remove = useDeleteBed();
  const [delivering, setDelivering] = useState(false);
  const [asking, setAsking] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const [chosen, setChosen] = useState("");
  const [params, setParams] = useState<Params>(() => usual(settings));
  const [startS, setStartS] = useState(0);
  const [width, measure] = useWidth(600);
  const bed = chosen || (beds.data?.[0]?.id ?? "");
  const under = beds.data?.find((b) => b.id === bed);
  const lengthS = Number(params.voice_start_s) + run.duration_s + Number(params.tail_s);
  const from = Math.min(startS, Math.max(0, lengthS - 1));
  const laid = useLaidBed(run.id, bed, useDeferredValue(params), useDeferredValue({ startS: from, endS: Math.min(lengthS, from + HEARD_S) }));
  const { loop, state } = useLoop();
  // What was heard last stands until there is something new, but not when its bed is gone.
  const data = under ? laid.data : undefined;
  useEffect(() => {
    if (data) loop.take({ sampleRateHz: data.told.sample_rate_hz, startS: 0, before: data.voice, after: data.mix, ...AS_THEY_ARE }, noEdits);
  }, [loop, data]);
  const told = data?.told;
  const error = beds.error ?? bring.error ?? remove.error ?? laid.error ?? mixes.error ?? recording.error;
  const hard = told?.least_db != null && told.least_db < 0;
  return (
    <Box sx={{ maxWidth: 1104 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, pt: 2, pb: 3, flexWrap: "wrap" }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">{run.recording_name} over a bed</Typography>
          <Typography variant="body2" color="textSecondary">The last result with music that dips while the voice speaks. The result itself stays as it is.</Typography>
        </Box>
        <TextField select size="small" label="Bed" value={bed} onChange={(event) => setChosen(event.target.value)} sx={{ width: 240 }} slotProps={{ inputLabel: { shrink: true } }}>
          {(beds.data ?? []).map((b) => <MenuItem key={b.id} value={b.id}>{b.name}, {formatTime(b.duration_s, 0)}</MenuItem>)}
        </TextField>
        <Button variant="outlined" onClick={() => picker.current?.click()} disabled={bring.isPending}>Add music</Button>
        <input
          ref={picker} type="file" accept="audio/*" hidden data-testid="bed-picker"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) bring.mutate(file, { onSuccess: (made) => setChosen(made.id) });
          }}
        />
        <Button variant="contained" startIcon={<DownloadIcon size={16} />} disabled={!under || !recording.data} onClick={() => setDelivering(true)}>Deliver the mix</Button>
      </Box>
      {delivering && under && recording.data && (
        <MixDialog onClose={() => setDelivering(false)} recording={recording.data} run={run} bed={under} params={params} targets={targets.data ?? []} />
      )}
      <AskFirst
        open={asking} title={`Delete the bed ${under?.name ?? ""}?`} action="Delete" onNo={() => setAsking(false)}
        onYes={() => {
          setAsking(false);
          remove.mutate(bed, { onSuccess: () => setChosen("") });
        }}
      >
        Mixes made over it stay.
      </AskFirst>
      {error && <Alert severity="error" sx={{ mb: 3 }}>{error.message}</Alert>}
      {beds.data?.length === 0 && <Typography>No bed yet: bring in a piece of music.</Typography>}
      {under && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 3, flexWrap: "wrap" }}>
          {told && (
            <>
              <SidePlayer player={loop} state={state} difference={AS_THEY_ARE} of={`of the ${HEARD_S} s from ${formatTime(from, 0)}`} keys names={["Voice alone", "With the bed", "Bed alone"]} />
              <TextField select size="small" label="Listen from" value={startS} onChange={(event) => setStartS(Number(event.target.value))} sx={{ width: 130 }}>
                {Array.from({ length: Math.max(1, Math.ceil(lengthS / HEARD_S)) }, (_, i) => <MenuItem key={i} value={i * HEARD_S}>{formatTime(i * HEARD_S, 0)}</MenuItem>)}
              </TextField>
            </>
          )}
          <Box sx={{ flex: 1 }} />
          <Button variant="text" size="small" onClick={() => setAsking(true)}>Delete this bed</Button>
        </Box>
      )}
      {told && (
        <>
          <Typography role="status" sx={{ my: 3, fontWeight: 600 }}>
            The voice typically stands {formatDb(told.typical_db)} dB over the bed; nine tenths of it by {formatDb(told.least_db)} dB or more.
            {hard ? " Softer words drown: dip deeper, or lower the bed." : ""}
          </Typography>
          <Box ref={measure}>
            <Typography variant="h3" component="h2">Distance of the voice, dB</Typography>
            <Typography variant="caption" color="textSecondary">While it speaks, over time. Line at {CLEAR_DB} dB: common practice. Teal: how far the bed is down, on the same scale.</Typography>
            <DistancePicture told={told} width={width} height={220} />
          </Box>
        </>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(300px, 1fr))", columnGap: 8, rowGap: 3, mt: 4, p: 4, border: `1.5px solid ${colours.ink}`, borderRadius: "14px", backgroundColor: colours.card }}>
        {settings.map((setting) => (
          <SettingField key={setting.name} setting={setting} value={params[setting.name] ?? 0} onSet={(value) => setParams({ ...params, [setting.name]: value })} />
        ))}
      </Box>
      <MixList mixes={mixes.data ?? []} recordingId={run.recording} />
    </Box>
  );
}
