export { checkedPassage, type Held, type PassageSpan } from "./checkedPassage";
export { channelsOf, Parts } from "./passage";
export { useLive, type Live } from "./useLive";
export { usePassage } from "./usePassage";
