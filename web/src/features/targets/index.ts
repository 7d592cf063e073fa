export { useCheck, useTargets } from "./api";
export { FileWishFields } from "./FileWishFields";
export { RuleList } from "./RuleList";
export { TargetsPage } from "./TargetsPage";
