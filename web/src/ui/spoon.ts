/**
 * How high the powder stands in an upright ellipse of which this share of the
 * area is filled: −1 at the bottom, 1 at the top. Drawing only.
 */
export function level(share: number): number {
  let low = -1
  let high = 1
  for (let i = 0; i < 40; i++) {
    const h = (low + high) / 2
    const filled = (h * Math.sqrt(1 - h * h) + Math.asin(h)) / Math.PI + 0.5
    if (filled < share) low = h
    else high = h
  }
  return (low + high) / 2
}
