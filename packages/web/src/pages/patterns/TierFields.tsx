import { breakoutsOf, breakoutsText, othersOf, othersText } from '@anthemion/core';
import { ParsedField, TextField } from '../../parts/Form.tsx';

/** Ports of a form that are split: `p49-p52 × 4`. */
export const BreakoutsField = ({ name, label }: { readonly name: string; readonly label: string }) => (
  <ParsedField
    name={name}
    label={label}
    parse={breakoutsOf}
    show={breakoutsText}
    bad="Write p1-p8 × 4; several with a semicolon."
    placeholder="p1-p8 × 4"
    hint="the parts are named as the model says, else p1s1 to p1s4; the switch is told so before it is cabled"
    code
  />
);

/** Switches of a tier that are of another model: `2 BW-L32D`. */
export const OthersField = ({ name, label }: { readonly name: string; readonly label: string }) => (
  <ParsedField
    name={name}
    label={label}
    parse={othersOf}
    show={othersText}
    bad="Write the number and the model, such as 2 BW-L32D, 3 BW-L32D."
    placeholder="2 BW-L32D"
    code
  />
);

/** The port every switch is managed by, and the ports of a management switch; both empty = it is not planned here. */
export const ManagementFields = () => (
  <>
    <TextField
      name="management.port"
      label="Management port of a switch"
      placeholder="eth0"
      hint="empty = the management network is not planned here"
      code
    />
    <TextField name="management.ports" label="Ports of a management switch" placeholder="p1-p48" code />
  </>
);

/** What the form holds of the management network; undefined = nothing. */
export const managementOf = (
  typed: { readonly port?: string; readonly ports?: string } | null | undefined,
): { readonly port: string; readonly ports: string } | undefined => {
  const [port, ports] = [typed?.port?.trim() ?? '', typed?.ports?.trim() ?? ''];
  return port === '' && ports === '' ? undefined : { port, ports };
};
