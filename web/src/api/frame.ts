import { answerOf, api, type FrameMeasured, type JudgeQuestion } from "./client";

/** Sends a file to be measured. Nothing of it is stored. */
export const measureFrame = (file: File, signal: AbortSignal): Promise<FrameMeasured> =>
  answerOf(
    api.POST("/api/v1/frames/measure", {
      params: { query: { name: file.name } },
      // The bytes as they are: the schema knows no File.
      body: file as unknown as number[],
      bodySerializer: (body: unknown) => body as BodyInit,
      headers: { "content-type": "application/octet-stream" },
      signal,
    }),
  );

/** Judges a measured frame as a test frame of a light path. */
export const judgeFrame = (body: JudgeQuestion, signal: AbortSignal) =>
  answerOf(api.POST("/api/v1/frames/judge", { body, signal }));
