import { ServerSaid, toServerSaid } from "./client";

export interface UploadTask {
  url: string;
  file: Blob;
  onProgress: (share: number) => void;
}

/** Send a file as the request's body. XMLHttpRequest, because fetch does not tell how much has been sent. */
export function upload<T>({ url, file, onProgress }: UploadTask): { done: Promise<T>; cancel: () => void } {
  const request = new XMLHttpRequest();
  const done = new Promise<T>((resolve, reject) => {
    request.open("POST", url);
    request.responseType = "json";
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.addEventListener("progress", (event) => {
      if (event.lengthComputable) onProgress(event.loaded / event.total);
    });
    request.addEventListener("load", () => {
      if (request.status >= 200 && request.status < 300) resolve(request.response as T);
      else reject(toServerSaid(request.response, request.status));
    });
    request.addEventListener("error", () => {
      reject(new ServerSaid("No connection. The file is still on this device: try again.", "offline", 0));
    });
    request.addEventListener("abort", () => {
      reject(new ServerSaid("Stopped.", "aborted", 0));
    });
    request.send(file);
  });
  return {
    done,
    cancel: () => {
      request.abort();
    },
  };
}

export function withQuery(path: string, values: Record<string, string | number | undefined>): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(values)) {
    if (value !== undefined && value !== "") query.set(name, String(value));
  }
  return `${path}?${query.toString()}`;
}
