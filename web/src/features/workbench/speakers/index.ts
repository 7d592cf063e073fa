export { SpeakerStrip } from "./SpeakerStrip";
export { foundBy } from "./turns";
