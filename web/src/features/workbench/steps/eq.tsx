import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";

import type { SettingRecord } from "../../../api/types";
import { asBand, asRecord, type Band } from "../pictures/bands";
import { EqBands } from "../pictures/EqBands";
import { EqPicture } from "../pictures/EqPicture";
import { SettingField } from "../SettingField";
import { StepHead } from "../StepHead";
import { countOf, type EditorProps, type StepView } from "./view";

const HEIGHT = 276;

/** The EQ's picture is its editor; the bands stand beside it as a list. */
function Editor({ width, ...props }: EditorProps) {
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
        <StepHead step={step} type={type} onSet={onSet} words={props.sentence} />
        {picture && (
          <EqPicture picture={picture} bands={bands} width={pictureWidth} height={HEIGHT} chosen={chosen} onChoose={setChosen} onSet={set} />
        )}
      </Box>
      <Box sx={{ width: 366, flexShrink: 0 }}>
        {setting && (
          <EqBands
            setting={setting} bands={bands} resonances={picture?.resonances ?? []} chosen={chosen} onChoose={setChosen} onSet={set}
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

export const view: StepView = {
  gist: (p) => `${countOf(p.bands)} band${countOf(p.bands) === 1 ? "" : "s"}`,
  inPicture: ["bands"],
  Editor,
};
