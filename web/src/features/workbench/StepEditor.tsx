import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";

import type { LivePoint, Params, Setting, SettingRecord, SettingValue, Step, StepPicture, StepType } from "../../api/types";
import { CautionIcon } from "../../pictures/icons";
import { MultibandSettings } from "./MultibandSettings";
import { asBand, asRecord, EqBands, EqPicture, StepPictureView, WorkPicture, type Band, type LoopPlace } from "./pictures";
import { RecordsField } from "./RecordsField";
import { STEP_EDITOR } from "./focusing";
import { SavedSettingsMenu } from "./SavedSettingsMenu";
import { SettingField } from "./SettingField";
import { remark, told } from "./stepWords";
import { useWidth } from "../../pictures/useWidth";

interface Props {
  step: Step;
  type: StepType;
  sentence: string | undefined;
  /** What the step did; of the passage, or of the whole where that is known. */
  point: Pick<LivePoint, "report"> | undefined;
  picture: StepPicture | null;
  at: LoopPlace | null;
  onSet: (params: Params, gesture?: string) => void;
  onRemove: () => void;
  /** Level of the voice that arrives, as far as it is known. */
  voiceDbfs: number | null;
  /** Hear other settings for a moment; null ends it. */
  onTry: (params: Params | null) => void;
}

/** Settings that are seldom turned stand behind "More". */
const SELDOM: Record<string, readonly string[]> = {
  compressor: ["auto_release", "detector", "mix", "sidechain_high_pass_hz"],
  gate: ["hysteresis_db", "open_early_ms", "hold_ms"],
  multiband: ["auto_release", "detector", "mix", "sidechain_high_pass_hz"],
  noise_reduction: ["margin_db", "smoothing_oct", "release_ms", "passes"],
  de_esser: ["attack_ms", "release_ms"],
};
/** Settings that the picture holds. */
const IN_PICTURE: Record<string, readonly string[]> = { noise_reduction: ["depth_curve"], eq: ["bands"] };
/** Steps that turn the level over time; their work is drawn beside. */
const WORKERS = ["compressor", "gate", "de_esser", "limiter", "saturation"];
const EQ_HEIGHT = 276;
const HEIGHT = 204;
const WIDE_HEIGHT = 250;

/** Settings of the chosen step, its picture, and what it does here. */
export function StepEditor(props: Props) {
  const { colours } = useTheme();
  const [width, ref] = useWidth(1060);
  return (
    <Box
      component="section" aria-label={`${props.type.label} settings`} id={STEP_EDITOR} tabIndex={-1}
      sx={{
        position: "relative", border: `1.5px solid ${colours.ink}`, borderRadius: "15px", px: 5, py: 3, mt: "-1px",
        backgroundColor: colours.card, minHeight: 200,
      }}
    >
      <Box ref={ref}>{props.step.type === "eq" ? <EqEditor {...props} width={width} /> : <PlainEditor {...props} width={width} />}</Box>
    </Box>
  );
}

function Head({ step, type, onSet, words, children }: Pick<Props, "step" | "type" | "onSet"> & { words?: string | undefined; children?: ReactNode }) {
  const { colours } = useTheme();
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 3, mb: 1 }}>
      <Typography variant="h2">{type.label}</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }} noWrap title={words}>
        {words ?? type.summary}
      </Typography>
      {children}
      <Box sx={{ width: 22, height: 4, borderRadius: 2, backgroundColor: colours.usual, flexShrink: 0 }} />
      <Typography variant="caption" color="textSecondary" noWrap>usual range</Typography>
      <SavedSettingsMenu step={step} type={type} onSet={(params) => onSet(params)} />
    </Box>
  );
}

function PlainEditor({ width, ...props }: Props & { width: number }) {
  const { step, type, picture, onSet } = props;
  const following = step.params.follow_voice === true;
  const set = (name: string, value: SettingValue, gesture?: string) =>
    onSet(name === "follow_voice" ? followed(step.params, value === true, props.voiceDbfs) : { [name]: value }, gesture);
  const [more, setMore] = useState(false);
  const seldom = SELDOM[step.type] ?? [];
  const shown = type.settings.filter((s) => !(IN_PICTURE[step.type] ?? []).includes(s.name) && (more || !seldom.includes(s.name)));
  const wide = step.type === "noise_reduction" || step.type === "de_esser";
  const pictureWidth = wide ? Math.round(width * 0.46) : Math.round(width * 0.29);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 6, rowGap: 3 }}>
      <Box sx={{ flex: "1 1 420px", minWidth: 0 }}>
        <Head step={step} type={type} onSet={onSet}>
          {seldom.length > 0 && (
            <Button size="small" variant="text" aria-expanded={more} onClick={() => setMore(!more)}>
              {more ? "Fewer settings" : "More settings"}
            </Button>
          )}
        </Head>
        <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 6 }}>
        <Box sx={{ flex: "1 1 200px", minWidth: 0 }}>
        {step.type === "multiband" ? (
          <MultibandSettings type={type} params={step.params} hidden={more ? [] : seldom} onSet={onSet} />
        ) : (
          <Box sx={{ display: "grid", gridTemplateColumns: wide ? "repeat(auto-fill, minmax(150px, 1fr))" : "repeat(auto-fill, minmax(210px, 1fr))", columnGap: 6 }}>
            {shown.map((setting) => (
              <AnyField
                key={setting.name} setting={following && setting.usual_following ? { ...setting, usual: setting.usual_following } : setting}
                value={step.params[setting.name] ?? ""} onSet={(value, gesture) => set(setting.name, value, gesture)}
              />
            ))}
          </Box>
        )}
        </Box>
      {picture && (
        <Box sx={{ width: pictureWidth, flexShrink: 0 }}>
          <StepPictureView
            step={step} label={type.label} picture={picture} point={props.point as LivePoint | undefined}
            width={pictureWidth} height={wide ? WIDE_HEIGHT : HEIGHT} at={props.at} onSet={onSet}
          />
        </Box>
      )}
        </Box>
      </Box>
      <DoesHere {...props} />
    </Box>
  );
}

/** Follows the voice from now on, or no more; thresholds stay where they are on this recording. */
export function followed(params: Params, follows: boolean, voiceDbfs: number | null): Params {
  const byDb = voiceDbfs === null ? 0 : follows ? -voiceDbfs : voiceDbfs;
  const moved = ["threshold_db", "quiet_guard_db"].flatMap((name) => {
    const value = params[name];
    return typeof value === "number" ? [[name, Math.round(Math.min(name === "quiet_guard_db" ? 0 : 30, value + byDb) * 2) / 2] as const] : [];
  });
  return { follow_voice: follows, ...Object.fromEntries(moved) };
}

function AnyField({ setting, value, onSet }: { setting: Setting; value: SettingValue; onSet: (value: SettingValue, gesture?: string) => void }) {
  return setting.kind === "records"
    ? <RecordsField setting={setting} value={value as SettingRecord[]} onSet={onSet} />
    : <SettingField setting={setting} value={value} onSet={onSet} />;
}

/** The EQ's picture is its editor; the bands stand beside it as a list. */
function EqEditor({ width, ...props }: Props & { width: number }) {
  const { step, type, picture, onSet, onTry } = props;
  const [chosen, setChosen] = useState<number | null>(null);
  const setting = type.settings.find((s) => s.name === "bands");
  const trim = type.settings.find((s) => s.name === "trim_db");
  const bands = (step.params.bands as SettingRecord[]).map(asBand);
  const set = (next: Band[], gesture?: string) => onSet({ bands: next.map(asRecord) }, gesture);
  const pictureWidth = Math.max(320, width - 390);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 6, rowGap: 2 }}>
      <Box sx={{ width: pictureWidth }}>
        <Head step={step} type={type} onSet={onSet} words={props.sentence} />
        {picture && (
          <EqPicture picture={picture} bands={bands} width={pictureWidth} height={EQ_HEIGHT} chosen={chosen} onChoose={setChosen} onSet={set} />
        )}
      </Box>
      <Box sx={{ width: 366, flexShrink: 0 }}>
        {setting && (
          <EqBands
            setting={setting} bands={bands} standsOut={picture?.stands_out ?? []} chosen={chosen} onChoose={setChosen} onSet={set}
            onTry={(band) => onTry(band && { bands: [...bands, band].map(asRecord) })}
          />
        )}
        <Box sx={{ display: "flex", alignItems: "end", gap: 3, mt: 1 }}>
          {trim && <Box sx={{ width: 190 }}><SettingField setting={trim} value={step.params.trim_db ?? 0} onSet={(value, gesture) => onSet({ trim_db: value }, gesture)} /></Box>}
          <Box sx={{ flex: 1 }} />
          <Button variant="text" size="small" onClick={props.onRemove}>Remove this step</Button>
        </Box>
      </Box>
    </Box>
  );
}

function DoesHere({ step, type, sentence, point, picture, at, onRemove }: Props) {
  const { colours } = useTheme();
  const note = remark(point);
  return (
    <Box sx={{ width: 212, flexShrink: 0, display: "flex", flexDirection: "column", gap: 0.5 }}>
      <Typography variant="h3" component="h3">What it does here</Typography>
      <Typography variant="body2">{sentence}</Typography>
      {told(step.type, point?.report).map((row) => (
        <Box key={row.label} sx={{ display: "flex" }}>
          <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>{row.label}</Typography>
          <Typography variant="body2"><b>{row.value}</b> {row.unit}</Typography>
        </Box>
      ))}
      {picture && WORKERS.includes(step.type) && (
        <Box>
          <WorkPicture work={picture.work[0] ?? []} width={212} height={58} name={`${type.label}, change of level`} at={at} />
          <Typography variant="caption" color="textSecondary">Turned down over the passage, dB</Typography>
        </Box>
      )}
      {note && (
        <Typography variant="body2" sx={{ color: colours.caution }}>
          <CautionIcon size={14} /> {note}
        </Typography>
      )}
      <Box sx={{ flex: 1 }} />
      <Button variant="text" size="small" sx={{ alignSelf: "end" }} onClick={onRemove}>Remove this step</Button>
    </Box>
  );
}
