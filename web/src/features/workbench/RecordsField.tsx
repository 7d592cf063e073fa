import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import visuallyHidden from "@mui/utils/visuallyHidden";

import type { Setting, SettingRecord } from "../../api/types";
import { formatHz, formatNumber } from "../../pictures/figures";
import { CrossIcon, PlusIcon } from "../../pictures/icons";
import { readTyped } from "./SettingField";

interface Props {
  setting: Setting;
  value: SettingRecord[];
  onSet: (value: SettingRecord[]) => void;
}

const words: Record<string, string> = {
  high_pass: "High-pass", low_pass: "Low-pass", low_shelf: "Low shelf", high_shelf: "High shelf",
  bell: "Bell", notch: "Notch",
};

/** A list of records, such as EQ bands: one row each, every number typed. */
export function RecordsField({ setting, value, onSet }: Props) {
  const { colours } = useTheme();
  const fields = (setting.record ?? []) as unknown as Setting[];
  const set = (row: number, name: string, to: SettingRecord[string]) =>
    onSet(value.map((record, i) => (i === row ? { ...record, [name]: to } : record)));
  const fresh = () =>
    Object.fromEntries(fields.map((f) => [f.name, f.default as SettingRecord[string]]));
  const full = value.length >= (setting.most ?? Infinity);
  return (
    <Box sx={{ gridColumn: "1 / -1" }}>
      <Box sx={{ display: "flex", alignItems: "center", mb: 1 }}>
        <Typography sx={{ fontWeight: 600, flex: 1 }} title={setting.help}>
          {setting.label}
        </Typography>
        <Button size="small" variant="outlined" startIcon={<PlusIcon size={14} />} disabled={full} onClick={() => onSet([...value, fresh()])}>
          Add to {setting.label.toLowerCase()}
        </Button>
      </Box>
      {value.length > 0 && (
        <Box
          component="table" aria-label={setting.label}
          sx={{ width: "100%", borderCollapse: "collapse", "& th, & td": { py: 0.5, px: 1, textAlign: "left" }, "& tbody tr": { borderTop: `1px solid ${colours.rule}` } }}
        >
          <thead>
            <tr>
              {fields.map((f) => (
                <Typography key={f.name} component="th" variant="caption" scope="col" title={f.help} sx={{ color: colours.muted, fontWeight: 400 }}>
                  {f.label}
                </Typography>
              ))}
              <th><Box component="span" sx={visuallyHidden}>Remove</Box></th>
            </tr>
          </thead>
          <tbody>
            {value.map((record, row) => (
              <tr key={row}>
                {fields.map((field) => (
                  <td key={field.name}>
                    <Cell field={field} record={record} row={row} onSet={(to) => set(row, field.name, to)} />
                  </td>
                ))}
                <td>
                  <IconButton size="small" aria-label={`Remove row ${row + 1}`} onClick={() => onSet(value.filter((_, i) => i !== row))}>
                    <CrossIcon size={14} />
                  </IconButton>
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
    </Box>
  );
}

interface CellProps {
  field: Setting;
  record: SettingRecord;
  row: number;
  onSet: (value: SettingRecord[string]) => void;
}

function Cell({ field, record, row, onSet }: CellProps) {
  const { colours } = useTheme();
  const label = `${field.label}, row ${row + 1}`;
  const value = record[field.name] ?? "";
  const matters = field.matters_for.length === 0 || field.matters_for.includes(String(record.type));
  if (!matters) return <span style={{ color: colours.muted }}>–</span>;
  if (field.kind === "switch") {
    return (
      <Switch checked={value === true} onChange={(event) => onSet(event.target.checked)} slotProps={{ input: { "aria-label": label } }} />
    );
  }
  if (field.kind === "choice") {
    return (
      <select
        aria-label={label} value={String(value)} style={inputStyle(colours.inputBorder, colours.card, colours.ink)}
        onChange={(event) => {
          const chosen = field.choices.find((c) => String(c) === event.target.value);
          onSet(chosen as string | number);
        }}
      >
        {field.choices.map((c) => (
          <option key={String(c)} value={String(c)}>
            {words[String(c)] ?? `${String(c)} ${field.unit}`}
          </option>
        ))}
      </select>
    );
  }
  return <TypedNumber key={String(value)} field={field} label={label} value={Number(value)} onSet={onSet} />;
}

interface TypedProps {
  field: Setting;
  label: string;
  value: number;
  width?: number;
  /** Without its unit, which stands elsewhere. */
  bare?: boolean;
  onSet: (value: number) => void;
}

/** A number as text to type over, with its unit. */
export function TypedNumber({ field, label, value, width = 78, bare = false, onSet }: TypedProps) {
  const { colours } = useTheme();
  const plain = field.unit === "Hz" ? formatHz(value) : `${formatNumber(Math.round(value * 100) / 100)} ${bare ? "" : field.unit}`.trim();
  const [typed, setTyped] = useState<string | null>(null);
  const read = typed === null ? null : readTyped(field, typed);
  const fault = read && "fault" in read ? read.fault : null;
  const commit = () => {
    if (read && "value" in read && typeof read.value === "number" && read.value !== value) onSet(read.value);
    if (!fault) setTyped(null);
  };
  return (
    <input
      aria-label={label} aria-invalid={fault !== null} title={fault ?? field.help} value={typed ?? plain}
      onChange={(event) => setTyped(event.target.value)} onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") commit();
        if (event.key === "Escape") setTyped(null);
      }}
      style={{ ...inputStyle(fault ? colours.fail : colours.inputBorder, colours.card, colours.ink), width, textAlign: "right" }}
    />
  );
}

export const inputStyle = (border: string, background: string, colour: string) => ({
  border: `1px solid ${border}`, borderRadius: 7, padding: "4px 6px", font: "inherit", fontSize: 13,
  fontWeight: 600, background, color: colour,
});
