import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import Slider from "@mui/material/Slider";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";

import type { Setting, SettingValue } from "../../api/types";
import { formatNumber } from "../../pictures/figures";
import { choiceWord, isShare, unitOf } from "../../chains/settingWords";
import { parseQuantity } from "../../pictures/quantity";
import { newGesture } from "./gestures";

/** Room beside the usual range on a slider, in widths of that range. */
const ROOM = 1.5;

interface Props {
  setting: Setting;
  value: SettingValue;
  /** `gesture` names the drag that a value comes from: all of a drag is one change. */
  onSet: (value: SettingValue, gesture?: string) => void;
}

/** A setting in the form its declaration asks for. */
export function SettingField(props: Props) {
  if (props.setting.kind === "switch") return <SwitchField {...props} />;
  if (props.setting.kind === "choice") return <ChoiceField {...props} />;
  return <NumberField {...props} />;
}

function Name({ setting, forId }: { setting: Setting; forId: string }) {
  return (
    <Tooltip title={setting.help} describeChild placement="top-start">
      <Typography
        component="label" htmlFor={forId}
        // A single word stays whole; browsers break at its hyphen.
        sx={{ fontWeight: 600, flex: 1, whiteSpace: setting.label.includes(" ") ? "normal" : "nowrap" }}
      >
        {setting.label}
      </Typography>
    </Tooltip>
  );
}

function SwitchField({ setting, value, onSet }: Props) {
  const id = `setting-${setting.name}`;
  return (
    <Box sx={{ display: "flex", alignItems: "center", height: 34 }}>
      <Name setting={setting} forId={id} />
      <Switch
        checked={value === true} onChange={(event) => onSet(event.target.checked)}
        slotProps={{ input: { id } }}
      />
    </Box>
  );
}

function ChoiceField({ setting, value, onSet }: Props) {
  const id = `setting-${setting.name}`;
  const choices = setting.choices as (string | number)[];
  return (
    <Box sx={{ display: "flex", alignItems: "center", height: 34 }}>
      <Name setting={setting} forId={id} />
      <TextField
        select size="small" value={value} id={id}
        onChange={(event) => {
          const chosen = choices.find((c) => String(c) === event.target.value);
          if (chosen !== undefined) onSet(chosen);
        }}
        slotProps={{ select: { native: false, inputProps: { id, "aria-label": setting.label } } }}
        sx={{ "& .MuiSelect-select": { py: 0.75, fontWeight: 600 } }}
      >
        {choices.map((c) => (
          <MenuItem key={c} value={c}>
            {choiceWord(setting, c)} {setting.unit}
          </MenuItem>
        ))}
      </TextField>
    </Box>
  );
}

/**
 * Position of a number on its slider, 0..1, and back. The slider shows the usual range with room on
 * both sides; what lies further out can be typed.
 */
export function sliderScale(setting: Setting) {
  const [least, most] = [setting.low ?? 0, setting.high ?? 1];
  const log = setting.scale === "log" && least > 0;
  const [to, from] = log ? [Math.log, Math.exp] : [(v: number) => v, (v: number) => v];
  const usualLow = setting.usual?.[0] ?? least;
  const usualHigh = setting.usual?.[1] ?? most;
  const margin = ROOM * (to(usualHigh) - to(usualLow));
  const low = Math.max(to(least), to(usualLow) - margin);
  const high = Math.min(to(most), to(usualHigh) + margin);
  const step = setting.increment ?? 0.1;
  return {
    share: (value: number) => Math.min(1, Math.max(0, (to(value) - low) / (high - low))),
    value: (share: number) => {
      const raw = Math.round(from(low + share * (high - low)) / step) * step;
      return Math.min(most, Math.max(least, Math.round(raw * 1e6) / 1e6));
    },
  };
}

/** What a typed text means for a setting: its value, or what is allowed. */
export function readTyped(setting: Setting, text: string): { value: SettingValue } | { fault: string } {
  const { low, high, word } = setting;
  if (word && text.trim().toLowerCase() === word) return { value: word };
  const scale = isShare(setting) ? 100 : 1;
  const unit = unitOf(setting);
  const typed = parseQuantity(text, unit);
  const value = typed === null ? null : typed / scale;
  const range = `${formatNumber(scale * (low ?? 0))} to ${formatNumber(scale * (high ?? 0))}${unit && ` ${unit}`}`;
  const allowed = `must be from ${range}${word ? ` or "${word}"` : ""}`;
  if (value === null) return { fault: `"${text.trim()}" is not understood: ${setting.label} ${allowed}` };
  if (low === null || high === null || value < low || value > high) return { fault: `${setting.label} ${allowed}` };
  return { value };
}

function NumberField({ setting, value, onSet }: Props) {
  const { colours } = useTheme();
  const id = `setting-${setting.name}`;
  const [typed, setTyped] = useState<string | null>(null);
  const gesture = useRef(newGesture());
  const [fault, setFault] = useState<string | null>(null);
  const scale = sliderScale(setting);
  const number = typeof value === "number" ? value : null;
  const shown = number !== null && isShare(setting) ? Math.round(1000 * number) / 10 : number;
  const commit = () => {
    if (typed === null) return;
    const read = readTyped(setting, typed);
    if ("fault" in read) {
      setFault(read.fault);
      return;
    }
    setFault(null);
    setTyped(null);
    if (read.value !== value) onSet(read.value);
  };
  const [usualLow, usualHigh] = setting.usual ?? [];
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, height: 34 }}>
        <Name setting={setting} forId={id} />
        <TextField
          size="small" id={id} value={typed ?? (shown === null ? (setting.word ?? "") : formatNumber(shown))}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => {
            if (event.key === "Enter") commit();
            if (event.key === "Escape") {
              setTyped(null);
              setFault(null);
            }
          }}
          error={fault !== null}
          slotProps={{
            htmlInput: { "aria-describedby": `${id}-fault`, inputMode: "text" },
            input: { endAdornment: <Typography variant="body2" sx={{ pl: 0.5, whiteSpace: "nowrap" }}>{unitOf(setting)}</Typography> },
          }}
          sx={{ width: 92, "& .MuiInputBase-root": { px: 2 }, "& input": { px: 0, py: 0.75, fontWeight: 650, textAlign: "right" } }}
        />
      </Box>
      <Box sx={{ position: "relative", height: 20, mt: -1 }}>
        {usualLow !== undefined && usualHigh !== undefined && (
          <Box
            sx={{
              position: "absolute", top: 9.5, height: 4, borderRadius: "2px", zIndex: 1, pointerEvents: "none", backgroundColor: colours.usual,
              left: `${100 * scale.share(usualLow)}%`,
              width: `${100 * (scale.share(usualHigh) - scale.share(usualLow))}%`,
            }}
          />
        )}
        <Slider
          min={0} max={1} step={0.001} size="small"
          value={scale.share(shown ?? 0)}
          aria-label={`${setting.label}, slider`}
          getAriaValueText={(share) => `${formatNumber(scale.value(share))} ${setting.unit}`}
          onChange={(_, share) => {
            setTyped(null);
            setFault(null);
            onSet(scale.value(share), gesture.current);
          }}
          onChangeCommitted={() => {
            gesture.current = newGesture();
          }}
          onKeyDown={(event) => {
            // Arrow keys move by the setting's own increment, not by a share of the slider.
            const turn = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
            if (turn === undefined || number === null) return;
            event.preventDefault();
            event.stopPropagation();
            const next = number + turn * (setting.increment ?? 0.1);
            onSet(Math.min(setting.high ?? next, Math.max(setting.low ?? next, Math.round(next * 1e6) / 1e6)));
          }}
          sx={{ position: "absolute", top: 0, "& .MuiSlider-thumb": { zIndex: 2, opacity: shown === null ? 0.35 : 1 } }}
        />
      </Box>
      <Typography id={`${id}-fault`} variant="caption" role={fault ? "alert" : undefined} sx={{ color: colours.fail, display: "block" }}>
        {fault}
      </Typography>
    </Box>
  );
}
