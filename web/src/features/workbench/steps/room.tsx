import { formatDb } from "../../../pictures/figures";
import { figure, shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `−${shown(p.depth_db)} dB`,
  did: (report) => {
    const share = figure(report, "room_db");
    return share === null || report.note ? null : `room ${formatDb(share)} dB`;
  },
  labels: { room_db: "Room in the sound" },
};
