/** Why functions are not looked at from inside here. */
export const OBSERVE_OFF =
  'This server does not look into functions. Who runs it can switch that on: TROMIX_OBSERVE=1.';
