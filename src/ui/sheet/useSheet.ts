"use client";

import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { InstrumentMessage } from "@/core/capture";
import { foldSheet, type SheetEvent } from "@/core/plan";
import type { SheetModel } from "@/core/report";
import type { ActionAnswer } from "../review/ReviewContext";

/** What the server sends to everybody who watches a sheet. */
export type SheetMessage =
  | { type: "hello"; serverMs: number; events: SheetEvent[]; recording: { stepKey: string; messages: InstrumentMessage[] } | null }
  | { type: "event"; event: SheetEvent }
  | { type: "instrument"; stepKey: string; message: InstrumentMessage }
  | { type: "recording"; stepKey: string; on: boolean };

export interface SheetMoveInput {
  kind: SheetEvent["kind"];
  stepKey: string;
  text?: string | null;
  result?: string | null;
}

export type MoveSheet = (input: unknown) => Promise<ActionAnswer<SheetEvent>>;

/**
 * A sheet as it stands on every screen: events come from the server as they happen, moves go to it one at a time.
 * Nothing is kept here that a reload, a sleep or a second screen could lose.
 */
export function useSheet(model: SheetModel, moveSheet: MoveSheet, pace: number) {
  const [events, setEvents] = useState(model.events);
  const [recording, setRecording] = useState<string | null>(model.recording);
  const [linked, setLinked] = useState(false);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const [skewMs, setSkewMs] = useState(0);
  const live = useRef<{ stepKey: string; messages: InstrumentMessage[] }>({ stepKey: "", messages: [] });
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const pending = useRef(new Set<string>());

  const add = useCallback(
    (more: readonly SheetEvent[]) =>
      setEvents((now) => {
        const known = new Map(now.map((event) => [event.sequence, event]));
        for (const event of more) known.set(event.sequence, event);
        return [...known.values()].sort((a, b) => a.sequence - b.sequence);
      }),
    [],
  );

  useEffect(() => {
    const source = new EventSource(`/api/sheets/${encodeURIComponent(model.review.id)}/${encodeURIComponent(model.bench.id)}?plan=${model.planNumber}`);
    source.onmessage = ({ data }) => {
      const message = JSON.parse(data) as SheetMessage;
      if (message.type === "hello") {
        setLinked(true);
        setSkewMs(message.serverMs - Date.now());
        add(message.events);
        setRecording(message.recording?.stepKey ?? null);
        if (message.recording) live.current = { stepKey: message.recording.stepKey, messages: [...message.recording.messages] };
      } else if (message.type === "event") add([message.event]);
      else if (message.type === "recording") {
        setRecording(message.on ? message.stepKey : null);
        if (message.on) live.current = { stepKey: message.stepKey, messages: [] };
      } else if (live.current.stepKey === message.stepKey) live.current.messages.push(message.message);
    };
    // The browser links again by itself; the first message then brings everything that was missed.
    source.onerror = () => setLinked(false);
    return () => source.close();
  }, [model.review.id, model.bench.id, model.planNumber, add]);

  const sheet = useMemo(() => foldSheet(model.steps, events), [model.steps, events]);
  const sequence = useRef(sheet.sequence);
  useEffect(() => {
    sequence.current = sheet.sequence;
  }, [sheet.sequence]);

  const send = useCallback(
    async ({ kind, stepKey, text = null, result = null }: SheetMoveInput): Promise<boolean> => {
      const input = {
        reviewId: model.review.id,
        benchId: model.bench.id,
        planNumber: model.planNumber,
        after: sequence.current,
        stepKey,
        kind,
        text,
        pace,
        result,
      };
      const answer = await moveSheet(input).catch(
        () => ({ ok: false, sentence: "The server does not answer. Nothing is lost: what was confirmed is kept; try again in a moment." }) as const,
      );
      setTrouble(answer.ok ? undefined : answer.sentence);
      // The live link brings it too; taken at once, the next key already sees it.
      if (answer.ok) {
        sequence.current = Math.max(sequence.current, answer.value.sequence);
        add([answer.value]);
      }
      return answer.ok;
    },
    [model, moveSheet, pace, add],
  );
  // Keys pressed while a move is on its way wait their turn; the same key again before it was done is one press too many.
  const move = useCallback(
    (input: SheetMoveInput): Promise<boolean> => {
      const name = JSON.stringify(input);
      if (pending.current.has(name)) return Promise.resolve(false);
      pending.current.add(name);
      const sent = queue.current.then(() => send(input)).finally(() => pending.current.delete(name));
      queue.current = sent;
      return sent;
    },
    [send],
  );
  return { sheet, events, recording, linked, trouble, setTrouble, skewMs, live, move };
}
