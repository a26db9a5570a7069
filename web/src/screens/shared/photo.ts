// A photo as it is sent: made smaller by the browser, nothing decided of it.
const side = 900

/** The photo as a data URL, no larger than is judged. */
export async function smaller(file: File): Promise<{ url: string; w: number; h: number }> {
  const bitmap = await createImageBitmap(file)
  const share = Math.min(1, side / Math.max(bitmap.width, bitmap.height))
  const canvas = document.createElement('canvas')
  canvas.width = Math.round(bitmap.width * share)
  canvas.height = Math.round(bitmap.height * share)
  canvas.getContext('2d')!.drawImage(bitmap, 0, 0, canvas.width, canvas.height)
  return { url: canvas.toDataURL('image/jpeg', 0.92), w: canvas.width, h: canvas.height }
}

/** What of a data URL is sent. */
export const sent = (url: string): string => url.slice(url.indexOf(',') + 1)
