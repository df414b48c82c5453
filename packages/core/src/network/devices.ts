/** Interfaces as daemons and filters of a switch call them, in the one dialect there is: the only place where the model asks for names. */
export { lagName as lagDevice, sviName as sviDevice, vxlanName as vxlanDevice } from '../dialects/linux/names.ts';
