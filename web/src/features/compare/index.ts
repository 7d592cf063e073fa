export { ComparePage } from "./ComparePage";
export { SidePlayer } from "./SidePlayer";
export { TastingPage } from "./TastingPage";
