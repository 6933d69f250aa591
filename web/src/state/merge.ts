/** An object with another laid over it, part by part; parts that stay as they are stay the same objects. */
export function merge<T>(old: T, over: unknown): T {
  if (
    old === null ||
    over === null ||
    typeof old !== "object" ||
    typeof over !== "object" ||
    Array.isArray(over)
  )
    return over as T;
  const before = old as Record<string, unknown>;
  let out = before;
  for (const [key, value] of Object.entries(over as Record<string, unknown>)) {
    const now = key in before ? merge(before[key], value) : value;
    if (key in before && Object.is(now, before[key])) continue;
    if (out === before) out = { ...before };
    out[key] = now;
  }
  return out as T;
}
