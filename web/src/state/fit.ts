// How many pictures side by side make them as large as a place allows.

/** Height of a caption under a picture and gap between pictures, in pixels. */
const CAPTION = 20;
const GAP = 10;

/** Columns and width of each picture for `count` of them in a place, all of one aspect. */
export function fit(count: number, aspect: number, width: number, height: number) {
  let best = { columns: 1, width: 0 };
  for (let columns = 1; columns <= Math.max(count, 1); columns++) {
    const rows = Math.ceil(count / columns);
    const across = (width - GAP * (columns - 1)) / columns;
    const down = ((height - GAP * (rows - 1)) / rows - CAPTION) * aspect;
    const each = Math.floor(Math.min(across, down));
    if (each > best.width) best = { columns, width: each };
  }
  return best;
}
