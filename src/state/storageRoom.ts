export interface StorageRoom {
  /** Bytes. */
  readonly used: number;
  readonly quota: number;
  /** Whether the browser keeps what is stored until a person deletes it. */
  readonly safe: boolean;
}

/** Missing where a page is not served safely, whatever its type says. */
const manager = (): Partial<StorageManager> => (navigator as { storage?: Partial<StorageManager> }).storage ?? {};

/** How much of the browser's room is used; null when it does not say. */
export async function storageRoom(): Promise<StorageRoom | null> {
  try {
    const { usage, quota } = (await manager().estimate?.()) ?? {};
    if (usage === undefined || quota === undefined) return null;
    return { used: usage, quota, safe: (await manager().persisted?.()) ?? false };
  } catch {
    return null;
  }
}

/** Asks the browser to keep what is stored until a person deletes it. Whether it will. */
export async function keepSafely(): Promise<boolean> {
  try {
    return (await manager().persisted?.()) || (await manager().persist?.()) || false;
  } catch {
    return false;
  }
}
