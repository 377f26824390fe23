import createClient from "openapi-fetch";
import { where } from "@/parts/where";
import { BASE } from "./base";
import type { components, paths } from "./schema";
import { turnedAway } from "./stranger";

export const api = createClient<paths>({ baseUrl: BASE });

type Schemas = components["schemas"];
export type Scenario = Schemas["Scenario"];
export type Contender = Schemas["Contender"];
export type Goal = Schemas["Goal"];
export type GoalLevel = Schemas["GoalLevel"];
export type Exposure = Schemas["Exposure"];
export type Filter = Schemas["Filter"];
export type BandwidthAnswer = Schemas["BandwidthAnswer"];
export type Influence = Schemas["Influence"];
export type BenchAnswer = Schemas["BenchAnswer"];
export type ContenderAnswer = Schemas["ContenderAnswer"];
export type ExposureAnswer = Schemas["ExposureAnswer"];
export type Decisions = Schemas["DecisionsAnswer"];
export type PathDecisions = Schemas["PathDecisions"];
export type Told = Schemas["Told"];
export type GainDecision = Schemas["GainDecision"];
export type SubDecision = Schemas["SubDecision"];
export type Choices = Schemas["Choices"];
export type SubCriterion = Schemas["SubCriterion"];
export type SplitMode = Schemas["SplitMode"];
export type MeasuredBox = Schemas["MeasuredBox"];
export type LookWords = Schemas["LookWords"];
export type Matrix = Schemas["Matrix"];
export type NightAnswer = Schemas["NightAnswer"];
export type NightSite = Schemas["NightSite"];
export type TargetNight = Schemas["TargetNight"];
export type OfferedList = Schemas["OfferedList"];
export type SequenceDocument = Schemas["SequenceDocument"];
export type NightQuestion = Schemas["NightQuestion"];
export type Plan = Schemas["Plan"];
export type PlanBlock = Schemas["Block"];
export type LockedBlock = Schemas["LockedBlock"];
export type StoredCampaign = Schemas["StoredCampaign"];
export type Campaign = Schemas["Campaign"];
export type CampaignNight = Schemas["CampaignNight"];
export type CampaignState = Schemas["CampaignState"];
export type Verdict = Schemas["Verdict"];
export type Library = Schemas["Library"];
export type StoredScenario = Schemas["StoredScenario"];
export type ScenarioRow = Schemas["ScenarioRow"];
export type Problem = Schemas["Problem"];
export type FieldError = Schemas["FieldError"];
export type StoredEntry = Schemas["StoredEntry"];
export type ShelfEntry = Schemas["ShelfEntry"];
export type RankedFilter = Schemas["RankedFilter"];
export type ToBuyQuestion = Schemas["ToBuyQuestion"];
export type ToBuyAnswer = Schemas["ToBuyAnswer"];
export type PlacesAnswer = Schemas["PlacesAnswer"];
export type KitRig = Schemas["KitRig"];
export type ReadyRig = Schemas["ReadyRig"];
export type Rig = Schemas["Rig"];
export type Slot = Schemas["Slot"];
export type TonightAnswer = Schemas["TonightAnswer"];
export type WorthTonight = Schemas["WorthTonight"];
export type Card = Schemas["Card"];
export type SkyNow = Schemas["SkyNow"];
export type CompareQuestion = Schemas["CompareQuestion"];
export type BlindAnswer = Schemas["BlindAnswer"];
export type SpectrumView = Schemas["SpectrumView"];
export type CatalogueAnswer = Schemas["CatalogueAnswer"];
export type FrameMeasured = Schemas["FrameMeasured"];
export type FrameVerdict = Schemas["FrameVerdict"];
export type JudgeQuestion = Schemas["JudgeQuestion"];
export type Framing = Schemas["Framing"];
export type FramePlan = Schemas["FramePlan"];
export type FrameRig = Schemas["FrameRig"];
export type Extent = Schemas["Extent"];
export type FieldFit = Schemas["FieldFit"];
export type Season = Schemas["Season"];
export type SkyAround = Schemas["SkyAround"];
export type StarAround = Schemas["StarAround"];
export type FieldQuestion = Schemas["FieldQuestion"];
export type FieldStars = Schemas["FieldStars"];
export type CatalogueObject = Schemas["CatalogueObject"];
export type Target = Schemas["Target"];
export type TargetKind = Schemas["TargetKind"];
export type Optics = Schemas["Optics"];
export type Sensor = Schemas["Sensor"];
export type CurveReading = Schemas["CurveReading"];
export type Quantity = Schemas["Quantity"];
export type AccessState = Schemas["AccessState"];

/** An answer that was not the one hoped for, with the server's own words. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(
      problem.errors.length ? problem.errors.map((e) => `${where(e.path)}: ${e.message}`).join("\n") : problem.detail,
    );
  }
}

const lost: Problem = {
  type: "urn:salt-lamp:problem:unreachable",
  title: "No answer",
  status: 0,
  detail: "The server does not answer. What you typed is kept here.",
  errors: [],
};

/** What anything that went wrong comes to: the server's own words where it has some. */
export function asProblem(e: unknown): ProblemError {
  if (e instanceof ProblemError) return e;
  const why = e instanceof Error ? e.message : String(e);
  return new ProblemError({
    ...lost,
    title: "The answer cannot be read",
    detail: `The answer cannot be read (${why}).`,
  });
}

/** Whether asking the same again may help: nothing was wrong with the question. */
export const mayPass = ({ problem: { status } }: ProblemError) => status === 0 || status === 429 || status >= 500;

/** The problem of an answer that is not the one hoped for; one that is no problem document is told by its status. */
export function problemOf(response: Response, body: unknown): ProblemError {
  const problem = body as Partial<Problem> | null | undefined;
  if (problem?.type === "urn:salt-lamp:problem:sign-in") turnedAway();
  return new ProblemError(
    typeof problem?.detail === "string"
      ? { ...lost, ...problem, status: response.status, errors: Array.isArray(problem.errors) ? problem.errors : [] }
      : { ...lost, status: response.status, detail: `The server answered ${response.status}.` },
  );
}

/** A request that finds nobody becomes a ProblemError; one that was called off stays what it is. */
export async function reached<T>(call: Promise<T>): Promise<T> {
  try {
    return await call;
  } catch (e) {
    if (e instanceof DOMException && e.name === "AbortError") throw e;
    throw new ProblemError(lost);
  }
}

/** The data of an answer, or a ProblemError. */
export async function answerOf<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const answer = await reached(call);
  if (answer.response.ok) return answer.data as T;
  throw problemOf(answer.response, answer.error);
}
