/** The roles of colour. Tangerine means "after" and nothing else; nothing is reported by colour alone. */
export interface Colours {
  paper: string;
  card: string;
  pith: string;
  rule: string;
  ink: string;
  muted: string;
  onInk: string;
  before: string;
  beforeText: string;
  after: string;
  afterText: string;
  room: string;
  pass: string;
  fail: string;
  caution: string;
  usual: string;
  inputBorder: string;
}

export const light: Colours = {
  paper: "#FBF7EF",
  card: "#FFFFFF",
  pith: "#F0E7D8",
  rule: "#E2D5C0",
  ink: "#261F2E",
  muted: "#6B6272",
  onInk: "#FBF7EF",
  before: "#6A3D7C",
  beforeText: "#6A3D7C",
  after: "#D9480F",
  afterText: "#B53A07",
  room: "#0F766E",
  pass: "#236341",
  fail: "#B4232C",
  caution: "#8A5C00",
  usual: "#A08A62",
  inputBorder: "#8A7F86",
};

export const dark: Colours = {
  paper: "#1C1722",
  card: "#262030",
  pith: "#322A3C",
  rule: "#463C50",
  ink: "#F5EEE2",
  muted: "#B9AEC0",
  onInk: "#1C1722",
  before: "#B58AC8",
  beforeText: "#C9A3DA",
  after: "#F0713C",
  afterText: "#F7946A",
  room: "#4DB6AC",
  pass: "#7CC79A",
  fail: "#F2858C",
  caution: "#E3B341",
  usual: "#B79F72",
  inputBorder: "#8F8499",
};
