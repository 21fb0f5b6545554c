/** Number of pixels of a resolution such as `2560x1440`; 0 where a test has none. */
export function pixelsOf(resolution: string | null): number {
  if (!resolution) return 0;
  const [width, height] = resolution.split("x").map(Number) as [number, number];
  return width * height;
}

/** A resolution as people write it, with the real multiplication sign: 2560 × 1440. */
export function resolutionLabel(resolution: string): string {
  return resolution.replace("x", " × ");
}

/** The key of a test version wherever one string is needed: `hollow-tide-1440@1`. Versions are never mixed. */
export function testKey(testId: string, version: number): string {
  return `${testId}@${version}`;
}
