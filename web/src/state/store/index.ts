// The state of the page: the document, what of it is shown, what the hand holds, and the picture.

import { create } from "zustand";
import { document, type DocumentState } from "./document";
import { hand, type HandState } from "./hand";
import { picture, type PictureState } from "./picture";
import { view, type ViewState } from "./view";

export type State = DocumentState & ViewState & HandState & PictureState;

/** One store: a step that touches several parts, as the choice of another view, is one change. */
export const useStudio = create<State>(() => ({ ...document, ...view, ...hand, ...picture }));

export const set = useStudio.setState;
export const get = useStudio.getState;
