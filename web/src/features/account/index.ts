export { useAccount } from "./api";
export { EntryGate } from "./EntryGate";
export { OwnAccount } from "./OwnAccount";
