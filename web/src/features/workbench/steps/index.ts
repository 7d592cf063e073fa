/** Collects the views in this folder by the names of their files, which are the types of the steps. */

import type { StepView } from "./view";

const FILES = import.meta.glob<{ view: StepView }>("./*.tsx", { eager: true });
const VIEWS = new Map(Object.entries(FILES).map(([path, { view }]) => [path.replace(/^\.\/(.*)\.tsx$/, "$1"), view]));
const PLAIN: StepView = {};

/** The view of a kind of step; one without a file of its own gets the form of its settings and a picture of levels. */
export const viewOf = (type: string): StepView => VIEWS.get(type) ?? PLAIN;

export type { StepView } from "./view";
