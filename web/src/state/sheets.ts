// Sheets of small pictures: begun, opened in the mount, and what is taken from them.

import { showView } from "./look";
import type { Look, Sheet } from "../api/types";
import { addRow, editLook } from "./edits";
import { set } from "./store";

/** Take what a picture of a sheet shows: its look, its view, and what was varied; or a new look where it is one. */
export async function takeFrom(of: Sheet["pictures"][number]["take"]) {
  showView(of.view);
  if (of.name) {
    const made = await addRow("look", of.name, of.settings);
    if (made) set({ lookId: made, held: null });
    return;
  }
  set({ lookId: of.look, held: null });
  if (Object.keys(of.settings).length > 0)
    void editLook(of.settings as Partial<Look>, "Take from the sheet");
}
