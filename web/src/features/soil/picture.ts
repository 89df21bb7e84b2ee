// A photo made small enough to be kept on the phone until it is sent; drawn anew, it says no more where it was taken.

const LONGEST = 1600;

/** A picture as a JPEG data address. */
export async function small(file: Blob): Promise<string> {
  const picture = await createImageBitmap(file, { imageOrientation: "from-image" });
  const share = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(picture.width * share));
  canvas.height = Math.max(1, Math.round(picture.height * share));
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL("image/jpeg", 0.85);
}

/** The picture of a data address; the page may fetch from its own server alone. */
export function asBlob(data: string): Blob {
  const [head = "", base64 = ""] = data.split(",");
  const bytes = Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0));
  return new Blob([bytes], { type: /data:([^;]+)/.exec(head)?.[1] ?? "image/jpeg" });
}
