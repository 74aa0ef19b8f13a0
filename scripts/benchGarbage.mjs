// What the engine leaves for the garbage collector, by the browser's own sampling of its heap.

const BLOCKS = 4000;

/** Bytes a block of the demo, once the compiler has seen it all; sampled, so that a few are missed. */
export async function garbageOfBlock(page) {
  const session = await page.context().newCDPSession(page);
  await page.evaluate((n) => globalThis.clovikDemo(n), 6 * BLOCKS);
  await session.send("HeapProfiler.startSampling", {
    samplingInterval: 4096,
    includeObjectsCollectedByMajorGC: true,
    includeObjectsCollectedByMinorGC: true,
  });
  await page.evaluate((n) => globalThis.clovikDemo(n), BLOCKS);
  const { profile } = await session.send("HeapProfiler.stopSampling");
  await session.detach();
  const left = (node) =>
    node.callFrame.functionName === "(V8 API)" ? 0 : node.children.reduce((sum, c) => sum + left(c), node.selfSize);
  return left(profile.head) / BLOCKS;
}
