import { EventEmitter } from "node:events";
import type { InstrumentMessage } from "@/core/capture";
import type { SheetEvent } from "@/core/plan";

/** What a run sheet tells whoever watches it. */
export type LiveMessage =
  | { type: "event"; event: SheetEvent }
  | { type: "instrument"; stepKey: string; message: InstrumentMessage }
  | { type: "recording"; stepKey: string; on: boolean };

/** A recording that runs now: who watches later gets what came before. */
export interface LiveRecording {
  stepKey: string;
  startedMs: number;
  messages: InstrumentMessage[];
  stop: () => void;
}

// Kept across reloads of a development server, and shared by all bundles of one process.
const globals = globalThis as typeof globalThis & { parvexLive?: { bus: EventEmitter; recordings: Map<string, LiveRecording> } };
globals.parvexLive ??= { bus: new EventEmitter().setMaxListeners(0), recordings: new Map() };
const { bus, recordings } = globals.parvexLive;

/** The key of one bench's sheet under one plan. */
export const sheetKey = (reviewId: string, planNumber: number, benchId: string) => `${reviewId}/${planNumber}/${benchId}`;

/** Tells everybody who watches a sheet. */
export function tellSheet(key: string, message: LiveMessage): void {
  bus.emit(key, message);
}

/** Watches a sheet; returns the way to stop. */
export function watchSheet(key: string, listener: (message: LiveMessage) => void): () => void {
  bus.on(key, listener);
  return () => bus.off(key, listener);
}

export const liveRecording = (key: string): LiveRecording | undefined => recordings.get(key);
export const beginRecording = (key: string, recording: LiveRecording): void => void recordings.set(key, recording);
export const endRecording = (key: string): void => void recordings.delete(key);
