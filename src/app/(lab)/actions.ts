"use server";

import { cookies } from "next/headers";
import { PERSON_COOKIE } from "@/app/actor";
import { answer } from "@/app/answer";
import { PathPattern } from "@/core/intake";
import { changeRun, RunChange } from "@/server/changeRun";
import { decideFinding, FindingDecision } from "@/server/decideFinding";
import { DifferenceDecision, declareDifference } from "@/server/declareDifference";
import { defineTests, TestsDraft } from "@/server/defineTests";
import { realDeps } from "@/server/deps";
import { addClaim, ClaimRemoval, NewClaim, removeClaim } from "@/server/editClaims";
import { editSuite, SuiteDraft } from "@/server/editSuite";
import { RunTrim, TrimUndo, trimRun, undoTrim } from "@/server/editTrace";
import { enterValues, ValueEdits } from "@/server/enterValues";
import { FaultSwitch, HostDraft, HostRemoval, Practice, practise, registerHost, removeHost, switchFaults } from "@/server/instrumentHosts";
import { endIntake, IntakeEnd, ProfileDraft, savePattern, saveProfile } from "@/server/intakes";
import { RunRelabel, relabelRun } from "@/server/moveRuns";
import { moveSheet, SheetMove } from "@/server/moveSheet";
import { OpenRuns, planOpenRuns } from "@/server/planReruns";
import { Publication, publishReport } from "@/server/publishReport";
import { BenchDraft, declareTwin, reviseBench, TwinDeclaration } from "@/server/reviseBench";
import { LabHoursChange, NewPlan, savePlan, setLabHours } from "@/server/savePlan";
import { setThreshold, ThresholdChange } from "@/server/setThresholds";
import { addSetup, changeReview, ReviewChange, ReviewDraft, SetupDraft, startReview } from "@/server/startReview";
import { OfferUpdate, updateOffer } from "@/server/updateOffer";
import { findActor } from "@/server/useCase";

export const decideFindingAction = async (input: unknown) => answer(FindingDecision, input, decideFinding);
export const changeRunAction = async (input: unknown) => answer(RunChange, input, changeRun);
export const trimRunAction = async (input: unknown) => answer(RunTrim, input, trimRun);
export const undoTrimAction = async (input: unknown) => answer(TrimUndo, input, undoTrim);
export const relabelRunAction = async (input: unknown) => answer(RunRelabel, input, relabelRun);
export const enterValuesAction = async (input: unknown) => answer(ValueEdits, input, enterValues);
export const planOpenRunsAction = async (input: unknown) => answer(OpenRuns, input, planOpenRuns);
export const updateOfferAction = async (input: unknown) => answer(OfferUpdate, input, updateOffer);
export const addClaimAction = async (input: unknown) => answer(NewClaim, input, addClaim);
export const removeClaimAction = async (input: unknown) => answer(ClaimRemoval, input, removeClaim);
export const publishAction = async (input: unknown) => answer(Publication, input, publishReport);

export const declareDifferenceAction = async (input: unknown) => answer(DifferenceDecision, input, declareDifference);
export const changeReviewAction = async (input: unknown) => answer(ReviewChange, input, changeReview);
export const reviseBenchAction = async (input: unknown) => answer(BenchDraft, input, reviseBench);
export const declareTwinAction = async (input: unknown) => answer(TwinDeclaration, input, declareTwin);
export const defineTestsAction = async (input: unknown) => answer(TestsDraft, input, defineTests);
export const editSuiteAction = async (input: unknown) => answer(SuiteDraft, input, editSuite);
export const startReviewAction = async (input: unknown) => answer(ReviewDraft, input, startReview);
export const addSetupAction = async (input: unknown) => answer(SetupDraft, input, addSetup);
export const savePlanAction = async (input: unknown) => answer(NewPlan, input, savePlan);
export const setLabHoursAction = async (input: unknown) => answer(LabHoursChange, input, setLabHours);
export const moveSheetAction = async (input: unknown) => answer(SheetMove, input, moveSheet);
export const registerHostAction = async (input: unknown) => answer(HostDraft, input, registerHost);
export const removeHostAction = async (input: unknown) => answer(HostRemoval, input, removeHost);
export const switchFaultsAction = async (input: unknown) => answer(FaultSwitch, input, switchFaults);
export const setThresholdAction = async (input: unknown) => answer(ThresholdChange, input, setThreshold);
export const endIntakeAction = async (input: unknown) => answer(IntakeEnd, input, endIntake);
export const savePatternAction = async (input: unknown) => answer(PathPattern, input, savePattern);
export const saveProfileAction = async (input: unknown) => answer(ProfileDraft, input, saveProfile);
export const practiseAction = async (input: unknown) => answer(Practice, input, practise);

/** Remembers who sits at this browser; no password on loopback for now. */
export async function choosePersonAction(personId: string): Promise<void> {
  const person = await findActor(realDeps(), personId);
  if (person) (await cookies()).set(PERSON_COOKIE, person.personId, { httpOnly: true, sameSite: "strict", maxAge: 31_536_000, path: "/" });
}
