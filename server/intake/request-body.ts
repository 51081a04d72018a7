import type { Request } from "express";
import { createGunzip, createInflate } from "node:zlib";
import { Problem } from "../http/problem.ts";

const longestSilenceMs = 30_000;

/**
 * The pieces of a request's body, unpacked, as they come. Throws a Problem over `mostBytes`, for packings that are not
 * known, and where nothing comes for long.
 */
export async function* bodyPieces(
  request: Request,
  mostBytes: number,
  encoding = request.headers["content-encoding"] ?? "identity",
): AsyncGenerator<Buffer> {
  if (!["identity", "gzip", "x-gzip", "deflate"].includes(encoding))
    throw new Problem(415, "unknown-packing", `The body is packed as ${encoding}; gzip and deflate are read.`);
  const stream =
    encoding === "identity" ? request : request.pipe(encoding === "deflate" ? createInflate() : createGunzip());
  let isSilent = false;
  const timer = setTimeout(() => {
    isSilent = true;
    request.destroy();
  }, longestSilenceMs);
  let size = 0;
  try {
    // The request is not destroyed with the loop: its answer goes over the same connection.
    for await (const piece of stream.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
      timer.refresh();
      size += piece.length;
      if (size > mostBytes)
        throw new Problem(
          413,
          "the-body-is-too-large",
          `A body may have ${Math.round(mostBytes / 1_048_576)} MiB, unpacked. Send it in pieces, or raise the limit under Sources.`,
        );
      yield piece;
    }
  } catch (error) {
    if (isSilent)
      throw new Problem(408, "too-slow", `Nothing came for ${longestSilenceMs / 1000} s. Nothing of it was taken.`);
    if (request.readableAborted || request.errored)
      throw new Problem(
        400,
        "the-body-broke-off",
        "The sender ended the connection before the end of the body. Nothing of it was taken.",
      );
    const code = String((error as { code?: string }).code);
    if (code.startsWith("Z_") || code === "ERR_BUFFER_TOO_LARGE")
      throw new Problem(
        400,
        "the-body-cannot-be-unpacked",
        `It is not whole, or not ${encoding}: ${(error as Error).message}.`,
      );
    throw error;
  } finally {
    clearTimeout(timer);
    if (stream !== request) {
      request.unpipe();
      stream.destroy();
    }
  }
}

/** The whole body. */
export async function wholeBody(request: Request, mostBytes: number): Promise<Buffer> {
  return await joined(bodyPieces(request, mostBytes));
}

/** The whole body, packed as it came. */
export async function bodyAsItCame(request: Request, mostBytes: number): Promise<Buffer> {
  return await joined(bodyPieces(request, mostBytes, "identity"));
}

async function joined(pieces: AsyncIterable<Buffer>): Promise<Buffer> {
  const all: Buffer[] = [];
  for await (const piece of pieces) all.push(piece);
  return Buffer.concat(all);
}
