/** An object with another laid over it, part by part. */
export function merge<T>(old: T, over: unknown): T {
  if (
    old === null ||
    over === null ||
    typeof old !== "object" ||
    typeof over !== "object" ||
    Array.isArray(over)
  )
    return over as T;
  const out: Record<string, unknown> = { ...(old as Record<string, unknown>) };
  for (const [key, value] of Object.entries(over as Record<string, unknown>))
    out[key] = key in out ? merge(out[key], value) : value;
  return out as T;
}
