import { formatDb, formatNumber } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => (p.freq_hz === "auto" ? "50 or 60 Hz" : `${shown(p.freq_hz)} Hz`),
  did: (report) => {
    const [hum, tones] = [figure(report, "hum_dbfs"), figure(report, "tones")];
    return hum === null || tones === null ? null : `${formatNumber(tones)} tones, ${formatDb(hum)} dBFS`;
  },
  labels: { tones: "Tones", hum_dbfs: "Hum taken out", drift_hz: "Drift" },
};
