import { ospfIn } from '../../network/ospfIn.ts';
import { found, type DesignRule } from '../rule.ts';

export const ospfNeighbourUp: DesignRule = {
  id: 'ospf-neighbour-up',
  title: 'Routers at both ends of a link become neighbours by OSPF',
  severity: 'error',
  scope: 'network',
  source: 'RFC 2328 §10.5, §10.6; RFC 5340 §4.2.2; domain: both ends of a link agree in area, intervals, keys and MTU',
  reads: [],
  judge: (network) =>
    ospfIn(network).flatMap(({ by, ospf }) =>
      // Very many have nothing to say.
      ospf.adjacencies
        .filter((a) => a.reason !== null)
        .map((a) =>
          found(
            ospfNeighbourUp,
            { host: a.host, configPlace: a.place },
            a.up
              ? `${a.host}: no route leads over ${a.port} to ${a.farHost}, though they are neighbours by ${by}: ${a.reason}.`
              : `${a.host}: no ${by} with ${a.farHost} over ${a.port}: ${a.reason}.`,
            'Make both ends agree, or make the port passive where nobody is meant to answer.',
          ),
        ),
    ),
};
