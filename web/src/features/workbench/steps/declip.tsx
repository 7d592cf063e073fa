import { formatDb, formatNumber } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `${shown(p.room_db)} dB room`,
  did: (report) => {
    const [crests, rebuilt] = [figure(report, "crests"), figure(report, "rebuilt_db")];
    return crests === null ? null : `${formatNumber(crests)} crests, +${formatDb(rebuilt ?? 0)} dB`;
  },
  labels: { crests: "Crests", rebuilt_db: "Highest crest, up" },
};
