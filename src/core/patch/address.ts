/** Where a value is: `owner.parameter`, the owner being a module or a route. Only this file joins and parts them. */
export type Address = `${string}.${string}`;

/** Ids are free of dots, so that an address has one reading. */
export const ID = /^[A-Za-z0-9_-]{1,64}$/;
export const ADDRESS = /^[A-Za-z0-9_-]{1,64}\.[A-Za-z0-9_-]{1,64}$/;

export const addressOf = (owner: string, parameter: string): Address => `${owner}.${parameter}`;

export function splitAddress(address: Address): { readonly owner: string; readonly parameter: string } {
  const at = address.indexOf(".");
  return { owner: address.slice(0, at), parameter: address.slice(at + 1) };
}

/** The parameter under which a route's own amount is addressed. */
export const AMOUNT = "amount";
