import type { LagConfig, SviConfig } from '../config/interfaces.ts';
import type { VxlanConfig } from '../config/overlay.ts';

/** Interfaces as daemons and filters call them. */
export const sviDevice = (s: Pick<SviConfig, 'vlan' | 'called'>): string => s.called ?? `vlan${s.vlan}`;
export const lagDevice = (l: Pick<LagConfig, 'number' | 'called'>): string => l.called ?? `bond${l.number}`;
export const vxlanDevice = (v: Pick<VxlanConfig, 'vni' | 'called'>): string => v.called ?? `vni${v.vni}`;
