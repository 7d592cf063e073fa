export { RepairStrip } from "./RepairStrip";
export { adding, marksOf, mending, nextMark, refusing, repairsIn } from "./marks";
