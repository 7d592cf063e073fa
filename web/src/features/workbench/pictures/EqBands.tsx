import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import { useTheme } from "@mui/material/styles";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";

import type { Setting, SettingRecord, StepPicture } from "../../../api/types";
import { formatChange, formatHz } from "../../../pictures/figures";
import { CrossIcon, PlusIcon } from "../../../pictures/icons";
import { inputStyle, TypedNumber } from "../RecordsField";
import visuallyHidden from "@mui/utils/visuallyHidden";
import { asBand, BAND_WORDS, cutAt, freshBand, hasGain, hasSlope, type Band } from "./bands";

interface Props {
  setting: Setting;
  bands: Band[];
  resonances: NonNullable<StepPicture["resonances"]>;
  chosen: number | null;
  onChoose: (index: number) => void;
  onSet: (bands: Band[]) => void;
  /** While held, a narrow boost is heard there; null ends it. */
  onTry: (band: Band | null) => void;
}

/** The bands as a list, every number to type, and what stands out of the voice. */
export function EqBands({ setting, bands, resonances, chosen, onChoose, onSet, onTry }: Props) {
  const { colours } = useTheme();
  const fields = (setting.record ?? []) as unknown as Setting[];
  const field = (name: string) => fields.find((f) => f.name === name);
  const fresh = () => asBand(Object.fromEntries(fields.map((f) => [f.name, f.default as SettingRecord[string]])));
  const change = (row: number, part: Partial<Band>) => onSet(bands.map((b, i) => (i === row ? { ...b, ...part } : b)));
  const number = (band: Band, row: number, name: "freq_hz" | "gain_db" | "q", width: number) => {
    const declared = field(name);
    return declared && (
      <TypedNumber key={`${name}${band[name]}`} field={declared} label={`${declared.label}, row ${row + 1}`} value={band[name]} width={width} bare={name !== "freq_hz"} onSet={(value) => change(row, { [name]: value })} />
    );
  };
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "center", mb: 1 }}>
        <Typography variant="h3" component="h3" sx={{ flex: 1 }}>Bands</Typography>
        <Button size="small" variant="outlined" startIcon={<PlusIcon size={14} />} disabled={bands.length >= (setting.most ?? 24)} onClick={() => onSet([...bands, freshBand(fresh(), bands)])}>
          Band
        </Button>
      </Box>
      <Box component="table" aria-label="Bands" sx={{ width: "100%", borderCollapse: "collapse", "& td, & th": { py: 0.25, px: 0.5, textAlign: "left", fontWeight: 400 }, "& tbody tr": { borderTop: `1px solid ${colours.rule}` } }}>
        <thead>
          <Typography component="tr" variant="caption" color="textSecondary">
            <th>Kind</th><th>Frequency</th><th>Gain, dB</th><th>Q</th><th>On</th><th><Box component="span" sx={visuallyHidden}>Remove</Box></th>
          </Typography>
        </thead>
        <tbody>
          {bands.map((band, row) => (
            <Box component="tr" key={row} onFocus={() => onChoose(row)} sx={{ backgroundColor: chosen === row ? colours.pith : "transparent" }}>
              <td>
                <select
                  aria-label={`Kind, row ${row + 1}`} value={band.type} style={{ ...inputStyle(colours.inputBorder, colours.card, colours.ink), width: 100 }}
                  onChange={(event) => change(row, { type: event.target.value })}
                >
                  {Object.entries(BAND_WORDS).map(([type, word]) => <option key={type} value={type}>{word}</option>)}
                </select>
              </td>
              <td>{number(band, row, "freq_hz", 66)}</td>
              {hasSlope(band.type) ? (
                <td colSpan={2}>
                  <select
                    aria-label={`Slope, row ${row + 1}`} value={band.slope_db_oct} style={{ ...inputStyle(colours.inputBorder, colours.card, colours.ink), width: 100 }}
                    onChange={(event) => change(row, { slope_db_oct: Number(event.target.value) })}
                  >
                    {(field("slope_db_oct")?.choices ?? []).map((c) => <option key={String(c)} value={String(c)}>{`${String(c)} dB/oct`}</option>)}
                  </select>
                </td>
              ) : (
                <>
                  <td>{hasGain(band.type) ? number(band, row, "gain_db", 48) : "–"}</td>
                  <td>{number(band, row, "q", 44)}</td>
                </>
              )}
              <td><Switch checked={band.enabled} onChange={(event) => change(row, { enabled: event.target.checked })} slotProps={{ input: { "aria-label": `On, row ${row + 1}` } }} /></td>
              <td><IconButton size="small" aria-label={`Remove row ${row + 1}`} onClick={() => onSet(bands.filter((_, i) => i !== row))}><CrossIcon size={13} /></IconButton></td>
            </Box>
          ))}
        </tbody>
      </Box>
      {resonances.length > 0 && (
        <>
          <Typography variant="h3" component="h3" sx={{ mt: 2 }}>Stands out over its octave</Typography>
          {resonances.map((peak) => (
            <Box key={peak.freq_hz} sx={{ display: "flex", alignItems: "center", gap: 2, py: 0.5 }}>
              <svg width={14} height={16} aria-hidden="true"><path d="M7 1l6 7l-6 7l-6 -7Z" fill="none" stroke={colours.caution} strokeWidth={1.8} /></svg>
              <Typography variant="body2" sx={{ flex: 1 }}>
                <b>{formatHz(peak.freq_hz)}</b> {formatChange(peak.over_db)} dB
              </Typography>
              <Button
                size="small" variant="outlined" title="Hold to hear it boosted" aria-label={`Listen to ${formatHz(peak.freq_hz)}`}
                onPointerDown={() => onTry({ ...cutAt(peak.freq_hz, 0), gain_db: 10, q: 8 })} onPointerUp={() => onTry(null)} onPointerLeave={() => onTry(null)}
                onKeyDown={(event) => event.key === " " && !event.repeat && onTry({ ...cutAt(peak.freq_hz, 0), gain_db: 10, q: 8 })} onKeyUp={() => onTry(null)}
              >
                Listen
              </Button>
              <Button size="small" variant="outlined" aria-label={`Cut at ${formatHz(peak.freq_hz)}`} onClick={() => onSet([...bands, cutAt(peak.freq_hz, peak.over_db)])}>
                Cut {formatChange(-Math.round(peak.over_db * 2) / 2)}
              </Button>
            </Box>
          ))}
        </>
      )}
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mt: 1 }}>
        Drag a handle; the wheel sets Q. Hold H over it to hunt: let go to leave a cut.
      </Typography>
    </Box>
  );
}
