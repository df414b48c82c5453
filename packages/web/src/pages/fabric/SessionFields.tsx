import { ChoiceField } from '../../parts/Form.tsx';
import { useFabricView } from './FabricFrame.tsx';

/** The secret that both sides of a session sign with, of those the fabric has taken up. */
export function PasswordField({ hint }: { readonly hint: string }) {
  const { secrets } = useFabricView().fabric.intent;
  return (
    <ChoiceField
      name="password"
      label="Password"
      options={secrets.map((s) => ({ id: s.name, name: s.name }))}
      none="none"
      hint={secrets.length === 0 ? 'Secrets that the fabric has taken up (Text › Snippets) can be chosen here' : hint}
    />
  );
}

/** The route maps that a fabric has, to choose from. */
function useMaps() {
  const { policies } = useFabricView().fabric.intent;
  return policies.flatMap((p) => (p.is === 'route-map' ? { id: p.name, name: p.name } : []));
}

/** The route maps that what a VRF has of its own goes through before it is told; nothing where the fabric has none. */
export function OwnMapFields() {
  const maps = useMaps();
  if (maps.length === 0) return null;
  return (
    <>
      <ChoiceField
        name="connectedMap"
        label="Route map of its subnets"
        options={maps}
        none="none"
        hint="What its leaves tell of their own subnets goes through it; what it denies is told nobody"
      />
      <ChoiceField name="staticMap" label="Route map of its static routes" options={maps} none="none" />
    </>
  );
}

/** The route maps that what is told goes through, both ways; nothing where the fabric has none. */
export function MapFields() {
  const maps = useMaps();
  if (maps.length === 0) return null;
  return (
    <>
      <ChoiceField
        name="mapIn"
        label="Route map in"
        options={maps}
        none="none"
        hint="What is told us goes through it, once the prefixes above let it in"
      />
      <ChoiceField name="mapOut" label="Route map out" options={maps} none="none" />
    </>
  );
}
