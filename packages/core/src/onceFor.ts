/** A function that is computed once for each object it is asked about, and kept as long as that. */
export function onceFor<K extends object, T>(compute: (of: K) => T): (of: K) => T {
  const known = new WeakMap<K, { readonly made: T }>();
  return (of) => {
    let entry = known.get(of);
    if (!entry) known.set(of, (entry = { made: compute(of) }));
    return entry.made;
  };
}
