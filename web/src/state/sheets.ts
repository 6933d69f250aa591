// Sheets of small pictures: begun, opened in the mount, and what is taken from them.

import { showView } from "./look";
import type { Look, Sheet } from "../api/types";
import { editLook } from "./edits";
import { set } from "./store";

/** Take what a picture of a sheet shows: its look, its view, and what was varied. */
export function takeFrom(of: Sheet["pictures"][number]["take"]) {
  set({ lookId: of.look });
  showView(of.view);
  if (Object.keys(of.settings).length > 0)
    void editLook(of.settings as Partial<Look>, "Take from the sheet");
}
