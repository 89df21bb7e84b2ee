// A file that is sent with its progress, and that may be broken off: fetch tells neither.
import { ApiFailure, type Problem } from "./api";

/** Sends a file; `sent` is told the share that has gone, 0 to 1. Broken off by the signal it fails as an `AbortError`, and the server keeps nothing of it. */
export function upload<T>(url: string, file: Blob, sent: (share: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", url);
    request.responseType = "json";
    request.upload.onprogress = (event) => event.lengthComputable && sent(event.loaded / event.total);
    request.onload = () => {
      if (request.status >= 200 && request.status < 300) return resolve(request.response as T);
      const problem = (request.response ?? undefined) as Problem | undefined;
      reject(new ApiFailure(problem?.detail ?? `The server answered ${request.status}.`, request.status, problem));
    };
    request.onerror = () => reject(new ApiFailure("The server does not answer. Nothing was written.", 0));
    request.onabort = () => reject(new DOMException("broken off", "AbortError"));
    signal.addEventListener("abort", () => request.abort(), { once: true });
    request.send(file);
  });
}
