/** Addresses of demo servers, one a worker, so that no test meets what another one stored at the same time. */
export const DEMOS = (process.env.SALT_LAMP_URL ?? "http://127.0.0.1:7373").split(" ");

/** The one of this worker. */
export const DEMO = DEMOS[Number(process.env.TEST_PARALLEL_INDEX ?? 0) % DEMOS.length];
