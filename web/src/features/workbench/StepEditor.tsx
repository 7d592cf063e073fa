import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";

import type { Params, Point, SettingRecord, SettingValue, Step, StepType } from "../../api/types";
import { CautionIcon } from "../../pictures/icons";
import { MultibandSettings } from "./MultibandSettings";
import { RecordsField } from "./RecordsField";
import { SettingField } from "./SettingField";
import { remark, told } from "./stepWords";

interface Props {
  step: Step;
  type: StepType;
  sentence: string | undefined;
  point: Point | undefined;
  onSet: (params: Params) => void;
  onRemove: () => void;
}

/** Settings of the chosen step beside what it does here. */
export function StepEditor({ step, type, sentence, point, onSet, onRemove }: Props) {
  const { colours } = useTheme();
  const set = (name: string, value: SettingValue) => onSet({ [name]: value });
  const note = remark(point);
  return (
    <Box
      component="section" aria-label={`${type.label} settings`}
      sx={{
        position: "relative", border: `1.5px solid ${colours.ink}`, borderRadius: "15px", px: 5, py: 3.5, mt: "-1px",
        backgroundColor: colours.card, display: "flex", flexWrap: "wrap", gap: 7, minHeight: 200,
      }}
    >
      <Box sx={{ flex: "1 1 420px", minWidth: 0 }}>
        <Box sx={{ display: "flex", alignItems: "baseline", gap: 3, mb: 1 }}>
          <Typography variant="h2">{type.label}</Typography>
          <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
            {type.summary}
          </Typography>
          <Box sx={{ width: 22, height: 4, borderRadius: 2, backgroundColor: colours.usual }} />
          <Typography variant="caption" color="textSecondary">
            usual range
          </Typography>
        </Box>
        {step.type === "multiband" ? (
          <MultibandSettings type={type} params={step.params} onSet={onSet} />
        ) : (
          <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(180px, 1fr))", columnGap: 5, rowGap: 0 }}>
            {type.settings.map((setting) =>
              setting.kind === "records" ? (
                <RecordsField
                  key={setting.name} setting={setting}
                  value={step.params[setting.name] as SettingRecord[]}
                  onSet={(value) => set(setting.name, value)}
                />
              ) : (
                <SettingField
                  key={setting.name} setting={setting} value={step.params[setting.name] ?? ""}
                  onSet={(value) => set(setting.name, value)}
                />
              ),
            )}
          </Box>
        )}
      </Box>
      <Box sx={{ width: 226, flexShrink: 0, display: "flex", flexDirection: "column", gap: 1 }}>
        <Typography variant="h3" component="h3">
          What it does here
        </Typography>
        <Typography variant="body2">{sentence}</Typography>
        {told(point).map((row) => (
          <Box key={row.label} sx={{ display: "flex" }}>
            <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
              {row.label}
            </Typography>
            <Typography variant="body2">
              <b>{row.value}</b> {row.unit}
            </Typography>
          </Box>
        ))}
        {note && (
          <Typography variant="body2" sx={{ color: colours.caution }}>
            <CautionIcon size={14} /> {note}
          </Typography>
        )}
        {!point && (
          <Typography variant="caption" color="textSecondary">
            Figures appear when the chain has run.
          </Typography>
        )}
        <Box sx={{ flex: 1 }} />
        <Button variant="text" size="small" sx={{ alignSelf: "end" }} onClick={onRemove}>
          Remove this step
        </Button>
      </Box>
    </Box>
  );
}
