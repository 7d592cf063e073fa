import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { LivePoint, Params, Setting, SettingRecord, SettingValue, Step, StepPicture, StepType } from "../../api/types";
import { withUnit } from "../../chains/settingWords";
import { CautionIcon } from "../../pictures/icons";
import { LevelsBeforeAfter } from "./pictures/LevelsBeforeAfter";
import { WorkPicture, type LoopPlace } from "./pictures/WorkPicture";
import { RecordsField } from "./RecordsField";
import { STEP_EDITOR } from "./focusing";
import { SettingField } from "./SettingField";
import { StepHead } from "./StepHead";
import { viewOf } from "./steps";
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

const HEIGHT = 204;
const WIDE_HEIGHT = 250;

/** Settings of the chosen step, its picture, and what it does here. */
export function StepEditor(props: Props) {
  const { colours } = useTheme();
  const [width, ref] = useWidth(1060);
  const { Editor } = viewOf(props.step.type);
  return (
    <Box
      component="section" aria-label={`${props.type.label} settings`} id={STEP_EDITOR} tabIndex={-1}
      sx={{
        position: "relative", border: `1.5px solid ${colours.ink}`, borderRadius: "15px", px: 5, py: 3, mt: "-1px",
        backgroundColor: colours.card, minHeight: 200,
      }}
    >
      <Box ref={ref}>{Editor ? <Editor {...props} width={width} /> : <PlainEditor {...props} width={width} />}</Box>
    </Box>
  );
}

function PlainEditor({ width, ...props }: Props & { width: number }) {
  const { step, type, picture, onSet } = props;
  const following = step.params.follow_voice === true;
  const set = (name: string, value: SettingValue, gesture?: string) =>
    onSet(name === "follow_voice" ? followed(step.params, value === true, props.voiceDbfs) : { [name]: value }, gesture);
  const [more, setMore] = useState(false);
  const { seldom = [], without = () => [], inPicture = [], isWide: wide = false, Settings, Picture = LevelsBeforeAfter } = viewOf(step.type);
  const shown = type.settings.filter((s) => !inPicture.includes(s.name) && !without(step.params).includes(s.name) && (more || !seldom.includes(s.name)));
  const pictureWidth = wide ? Math.round(width * 0.46) : Math.round(width * 0.29);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 6, rowGap: 3 }}>
      <Box sx={{ flex: "1 1 420px", minWidth: 0 }}>
        <StepHead step={step} type={type} onSet={onSet}>
          {seldom.length > 0 && (
            <Button size="small" variant="text" aria-expanded={more} onClick={() => setMore(!more)}>
              {more ? "Fewer settings" : "More settings"}
            </Button>
          )}
        </StepHead>
        <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 6 }}>
        <Box sx={{ flex: "1 1 200px", minWidth: 0 }}>
        {Settings ? (
          <Settings type={type} params={step.params} hidden={more ? [] : seldom} onSet={onSet} />
        ) : (
          <Box sx={{ display: "grid", gridTemplateColumns: wide ? "repeat(auto-fill, minmax(150px, 1fr))" : "repeat(auto-fill, minmax(210px, 1fr))", columnGap: 6 }}>
            {shown.map((setting) => (
              <AnyField
                key={setting.name} setting={withUnit(following && setting.usual_following ? { ...setting, usual: setting.usual_following } : setting, step.params)}
                value={step.params[setting.name] ?? ""} onSet={(value, gesture) => set(setting.name, value, gesture)}
              />
            ))}
          </Box>
        )}
        </Box>
      {picture && (
        <Box sx={{ width: pictureWidth, flexShrink: 0 }}>
          <Picture
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
      {picture && viewOf(step.type).drawsWork && (
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
