/** Keys that are held by hand where one note sounds at a time: which of them is to sound. Allocates nothing once made. */
export class HeldKeys {
  /** In the order in which they were pressed. */
  private readonly keys = new Uint8Array(128);
  private readonly velocities = new Uint8Array(128);
  private count = 0;
  /** The key that sounds, and the one that sounded last; -1 for none. */
  sounding = -1;
  last = -1;

  press(key: number, velocity: number): void {
    this.release(key);
    this.keys[this.count++] = key;
    this.velocities[key] = velocity;
  }

  release(key: number): void {
    let kept = 0;
    for (let i = 0; i < this.count; i++) if (this.keys[i] !== key) this.keys[kept++] = this.keys[i]!;
    this.count = kept;
  }

  /** The newest, highest or lowest of the held keys; -1 for none. */
  choose(priority: "last" | "high" | "low"): number {
    if (priority === "last") return this.count === 0 ? -1 : this.keys[this.count - 1]!;
    let best = -1;
    for (let i = 0; i < this.count; i++) {
      const key = this.keys[i]!;
      if (best === -1 || (priority === "high" ? key > best : key < best)) best = key;
    }
    return best;
  }

  velocityOf(key: number): number {
    return this.velocities[key]!;
  }

  sound(key: number): void {
    this.sounding = key;
    if (key !== -1) this.last = key;
  }

  clear(): void {
    this.count = 0;
    this.sounding = -1;
  }
}
