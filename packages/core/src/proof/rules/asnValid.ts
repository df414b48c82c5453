import { refusedAsn } from '../../numbers/asn.ts';
import { found, type DesignRule } from '../rule.ts';

export const asnValid: DesignRule = {
  id: 'asn-valid',
  title: 'AS numbers may be used',
  severity: 'error',
  scope: 'network',
  source: 'RFC 6996, 7300, 7607, 6793',
  reads: ['bgp'],
  judge: ({ switches }) =>
    switches.flatMap(({ host, config }) => {
      const why = config.bgp ? refusedAsn(config.bgp.asn) : null;
      return why === null
        ? []
        : [
            found(
              asnValid,
              { host, configPlace: ['bgp'] },
              `${host} runs BGP as ${config.bgp!.asn}, which is ${why}.`,
              'Use 64512–65534 or 4200000000–4294967294.',
            ),
          ];
    }),
};
