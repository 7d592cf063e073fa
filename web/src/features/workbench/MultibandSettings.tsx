import Box from "@mui/material/Box";
import Tab from "@mui/material/Tab";
import Tabs from "@mui/material/Tabs";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Params, Setting, SettingRecord, StepType } from "../../api/types";
import { formatHz } from "../../pictures/figures";
import { bandNames, readCrossovers, withCrossovers } from "./crossovers";
import { SettingField } from "./SettingField";

interface Props {
  type: StepType;
  params: Params;
  /** Settings that are not shown now. */
  hidden: readonly string[];
  onSet: (params: Params, gesture?: string) => void;
}

/** Crossovers, and below them the settings of one band at a time. */
export function MultibandSettings({ type, params, hidden, onSet }: Props) {
  const [shown, setShown] = useState(0);
  const crossovers = params.crossovers_hz as number[];
  const bands = params.bands as SettingRecord[];
  const at = Math.min(shown, bands.length - 1);
  const settings = type.settings.find((s) => s.name === "bands")?.record as unknown as Setting[];
  const setBand = (name: string, value: SettingRecord[string], gesture?: string) =>
    onSet({ bands: bands.map((b, i) => (i === at ? { ...b, [name]: value } : b)) }, gesture);
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 4, mb: 1 }}>
        <Crossovers
          key={crossovers.join()} value={crossovers}
          onSet={(value) => onSet(withCrossovers(params, value))}
        />
        <Tabs value={at} onChange={(_, next: number) => setShown(next)} aria-label="Bands" sx={{ minHeight: 34 }}>
          {bandNames(crossovers, formatHz).map((name) => (
            <Tab key={name} label={name} sx={{ minHeight: 34, py: 0, textTransform: "none" }} />
          ))}
        </Tabs>
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(150px, 1fr))", columnGap: 5 }}>
        {settings.filter((s) => !hidden.includes(s.name)).map((setting) => (
          <SettingField
            key={`${at}-${setting.name}`} setting={setting} value={bands[at]?.[setting.name] ?? ""}
            onSet={(value, gesture) => setBand(setting.name, value as SettingRecord[string], gesture)}
          />
        ))}
      </Box>
    </>
  );
}

function Crossovers({ value, onSet }: { value: number[]; onSet: (value: number[]) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const read = typed === null ? value : readCrossovers(typed);
  const rises = read?.every((hz, i) => hz >= 40 && hz <= 18_000 && (i === 0 || hz > (read[i - 1] ?? 0)));
  const fault = read === null || !rises || read.length > 3;
  const commit = () => {
    if (fault || typed === null) return;
    setTyped(null);
    onSet(read);
  };
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
      <Typography component="label" htmlFor="crossovers" sx={{ fontWeight: 600 }}>
        Crossovers
      </Typography>
      <TextField
        id="crossovers" size="small" error={fault} value={typed ?? value.join(", ")}
        helperText={fault ? "1 to 3 rising numbers, 40 to 18000 Hz" : undefined}
        onChange={(event) => setTyped(event.target.value)} onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === "Enter") commit();
          if (event.key === "Escape") setTyped(null);
        }}
        slotProps={{ input: { endAdornment: <Typography variant="body2">Hz</Typography> } }}
        sx={{ width: 170, "& input": { py: 0.75, fontWeight: 650 } }}
      />
    </Box>
  );
}
