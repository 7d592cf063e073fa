import { shown, type StepView } from "./view";

export const view: StepView = {
  gist: (p) => `${shown(p.gain_db)} dB`,
  // What it did is what is set.
  did: () => null,
};
