/** The few drawings the interface needs; all take the colour of the text around them. */

interface Props {
  size?: number;
}

function line(path: string, size: number, filled = false) {
  return (
    <svg
      width={size} height={size} viewBox="0 0 20 20" aria-hidden="true" focusable="false"
      fill={filled ? "currentColor" : "none"} stroke="currentColor" strokeWidth={1.8}
      strokeLinecap="round" strokeLinejoin="round"
    >
      <path d={path} />
    </svg>
  );
}

export const PlayIcon = ({ size = 20 }: Props) => line("M6 4l10 6-10 6Z", size, true);
export const PauseIcon = ({ size = 20 }: Props) => line("M7 5v10M13 5v10", size);
export const CheckIcon = ({ size = 20 }: Props) => line("M4 10.5l4 4 8-9", size);
export const CrossIcon = ({ size = 20 }: Props) => line("M5 5l10 10M15 5L5 15", size);
export const PlusIcon = ({ size = 20 }: Props) => line("M10 4v12M4 10h12", size);
export const DownIcon = ({ size = 20 }: Props) => line("M4 7l6 6 6-6", size);
export const UndoIcon = ({ size = 20 }: Props) => line("M7 4L3 8l4 4M3 8h9a5 5 0 0 1 0 9H8", size);
export const RedoIcon = ({ size = 20 }: Props) => line("M13 4l4 4-4 4M17 8H8a5 5 0 0 0 0 9h4", size);
export const MoreIcon = ({ size = 20 }: Props) => line("M4 10h.01M10 10h.01M16 10h.01", size);
export const ClockIcon = ({ size = 20 }: Props) => line("M10 3a7 7 0 1 0 0 14 7 7 0 0 0 0-14ZM10 6v4l3 2", size);
export const CautionIcon = ({ size = 20 }: Props) => line("M10 3l8 14H2ZM10 8v4M10 14.5v.01", size);
export const GripIcon = ({ size = 20 }: Props) =>
  line("M7 5v.01M13 5v.01M7 10v.01M13 10v.01M7 15v.01M13 15v.01", size);
export const DownloadIcon = ({ size = 20 }: Props) => line("M10 3v10M6 9l4 4 4-4M4 17h12", size);
