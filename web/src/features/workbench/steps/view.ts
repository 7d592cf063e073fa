/** What the page knows of a kind of step besides its settings. Every part may be left out. */

import type { ComponentType } from "react";

import type { LivePoint, Params, SettingValue, Step, StepPicture, StepType } from "../../../api/types";
import { formatNumber } from "../../../pictures/figures";
import type { LoopPlace } from "../pictures/WorkPicture";

type Report = Record<string, unknown>;

export interface PictureProps {
  step: Step;
  label: string;
  picture: StepPicture;
  point: LivePoint | undefined;
  width: number;
  height: number;
  at: LoopPlace | null;
  onSet: (params: Params, gesture?: string) => void;
}

export interface SettingsProps {
  type: StepType;
  params: Params;
  /** Settings that stand behind *More settings* at the moment. */
  hidden: readonly string[];
  onSet: (params: Params, gesture?: string) => void;
}

export interface StepView {
  /** The setting that says most, for the head of its column. */
  gist?: (params: Params) => string;
  /** What it did, in a few words for its column; null where that is not known. Left out: by the usual figures. */
  did?: (report: Report) => string | null;
  /** What figures of its report mean here, where that is something of its own. */
  labels?: Record<string, string>;
  /** Settings that are seldom turned; they stand behind *More settings*. */
  seldom?: readonly string[];
  /** Settings that have no effect as the others are set; they are not shown. */
  without?: (params: Params) => readonly string[];
  /** Settings that the picture holds. */
  inPicture?: readonly string[];
  /** The picture is about frequency and takes more room. */
  isWide?: boolean;
  /** Its work over time is drawn beside. */
  drawsWork?: boolean;
  /** Its picture; left out: levels before and after. */
  Picture?: ComponentType<PictureProps>;
  /** Its settings in a form of their own. */
  Settings?: ComponentType<SettingsProps>;
  /** Picture and settings in one. */
  Editor?: ComponentType<EditorProps>;
}

export interface EditorProps {
  step: Step;
  type: StepType;
  sentence: string | undefined;
  picture: StepPicture | null;
  width: number;
  onSet: (params: Params, gesture?: string) => void;
  onRemove: () => void;
  onTry: (params: Params | null) => void;
}

export const asNumber = (value: SettingValue | undefined): number | undefined => (typeof value === "number" ? value : undefined);

/** A setting for people; 0 where it is not there. */
export const shown = (value: SettingValue | undefined): string => formatNumber(asNumber(value) ?? 0);

export const countOf = (value: SettingValue | undefined): number => (Array.isArray(value) ? value.length : 0);

export const figure = (report: Report, key: string): number | null => (typeof report[key] === "number" ? report[key] : null);
