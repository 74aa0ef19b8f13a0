const two = (n: number): string => String(n).padStart(2, "0");

/** "14:02", today's time of a moment. By hand: the browser takes 20 ms to set up its own way of writing times. */
export function clockTime(at: number): string {
  const time = new Date(at);
  return `${two(time.getHours())}:${two(time.getMinutes())}`;
}
