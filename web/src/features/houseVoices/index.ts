export { HouseVoiceButton } from "./HouseVoiceButton";
export { HouseVoiceDialog } from "./HouseVoiceDialog";
