export { useCheck, useTargets } from "./api";
export { FileWishFields } from "./FileWishFields";
export { RuleList } from "./RuleList";
export { RulesMet } from "./RulesMet";
export { TargetsPage } from "./TargetsPage";
