// Brings a file to the server, piece by piece, under the hash of its content.
import { ask, client } from "./client";

const hex = (bytes: ArrayBuffer) => [...new Uint8Array(bytes)].map((b) => b.toString(16).padStart(2, "0")).join("");

/** Returns the content's hash, under which it is known from then on. `told` hears how much is there, 0 to 1. */
export async function upload(file: File, told: (share: number) => void, signal: AbortSignal): Promise<string> {
  if (!window.isSecureContext)
    throw new Error("Files are only brought from this computer, or over a secure connection.");
  const digest = hex(await crypto.subtle.digest("SHA-256", await file.arrayBuffer()));
  const begun = await ask(client.POST("/api/uploads", { body: { digest, size: file.size, name: file.name }, signal }));
  for (let n = 0; n < begun.pieces; n += 1) {
    const piece = file.slice(n * begun.piece_bytes, (n + 1) * begun.piece_bytes);
    await ask(
      client.PUT("/api/uploads/{upload}/{number}", {
        params: { path: { upload: begun.id, number: n } },
        body: piece as never, // the raw bytes, which the description of the API has no type for
        bodySerializer: (raw) => raw,
        headers: { "Content-Type": "application/octet-stream" },
        signal,
      }),
    );
    told((n + 1) / begun.pieces);
  }
  return (await ask(client.POST("/api/uploads/{upload}/finish", { params: { path: { upload: begun.id } }, signal })))
    .digest;
}
