/** A cable between ports of two switches, by the names they bear. */
export interface Cable {
  readonly a: { readonly host: string; readonly port: string };
  readonly b: { readonly host: string; readonly port: string };
}
