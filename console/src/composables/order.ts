/** A list with one of its things at another place. */
export function reordered<T>(list: readonly T[], from: number, to: number): T[] {
  const out = [...list]
  const [one] = out.splice(from, 1)
  if (one !== undefined) out.splice(to, 0, one)
  return out
}
