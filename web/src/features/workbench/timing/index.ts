export { withMarker } from "./markers";
export { TimingButton } from "./TimingButton";
