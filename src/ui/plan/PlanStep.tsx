"use client";

import { Box, Button, Flex, Grid, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";
import { useCallback, useMemo, useState } from "react";
import {
  DAYS_AHEAD,
  type LabHours,
  NO_CUTS,
  openStretches,
  type PlanChoices,
  type PlanModel,
  revivePlan,
  type Schedule,
  toICalendar,
  toPlanCsv,
} from "@/core/plan";
import { TextField, Tick, Trouble, useAction } from "../forms/fields";
import { StepFoot, StepHead } from "../review/controls";
import type { ActionAnswer } from "../review/ReviewContext";
import { HoursGrid } from "./HoursGrid";
import { LabHoursEditor } from "./LabHoursEditor";
import { LeaveOuts } from "./LeaveOuts";
import { PlanTimeline } from "./PlanTimeline";
import { hoursText, momentText, namesOf } from "./planWords";
import { usePlan } from "./usePlan";

interface Props {
  model: PlanModel;
  nowMs: number;
  savePlan: (input: unknown) => Promise<ActionAnswer<{ number: number }>>;
  setLabHours: (input: { rowVersion: number; hours: LabHours }) => Promise<ActionAnswer>;
}

const QUARTER_MS = 900_000;

function firstChoices(model: PlanModel, nowMs: number): PlanChoices {
  const startAt = new Date(Math.ceil(nowMs / QUARTER_MS) * QUARTER_MS).toISOString();
  if (model.saved) return model.saved.started ? { ...model.saved.choices, startAt } : model.saved.choices;
  const own = new Set(model.setups.map(({ benchId, benchRevision }) => `${benchId}@${benchRevision}`));
  return {
    benches: model.benches.map(({ id, revision }) => `${id}@${revision}`).filter((key) => own.has(key)),
    startAt,
    oneOperator: true,
    policy: { baselineLast: true, baselineEvery: 0, alternate: false },
    cuts: NO_CUTS,
  };
}

function download(name: string, type: string, text: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** The Plan step: what it takes, whether it fits the embargo, in which order, on which benches, and what to leave out. */
export function PlanStep({ model, nowMs, savePlan, setLabHours }: Props) {
  const [choices, setChoices] = useState(() => firstChoices(model, nowMs));
  const [editingHours, setEditingHours] = useState(false);
  const { busy, trouble, act } = useAction();
  const made = usePlan(model, choices);
  const names = useMemo(() => namesOf(model), [model]);
  const startMs = Date.parse(choices.startAt);
  // The calendar that the plan on screen was laid over: the choices may have moved on while the next is made.
  const plannedMs = made.startMs ?? startMs;
  const stretches = useMemo(() => openStretches(model.hours, plannedMs, DAYS_AHEAD), [model.hours, plannedMs]);
  const { schedule } = made;
  const change = useCallback((more: Partial<PlanChoices>) => setChoices((now) => ({ ...now, ...more })), []);
  const policy = (more: Partial<PlanChoices["policy"]>) => change({ policy: { ...choices.policy, ...more } });
  const inForce =
    model.saved && made.plan ? JSON.stringify(model.saved.plan.benches) === JSON.stringify(revivePlan({ benches: made.plan.benches }).benches) : false;
  const nothing = made.plan !== undefined && made.plan.benches.length === 0;
  const save = () =>
    made.plan &&
    schedule &&
    act(() =>
      savePlan({
        reviewId: model.review.id,
        after: model.saved?.number ?? 0,
        choices,
        plan: { benches: made.plan?.benches },
        plannedSeconds: schedule.seconds,
        plannedSd: schedule.sd,
      }),
    );
  const zone = model.hours.timeZone;
  return (
    <Box>
      <StepHead title={nothing ? "Nothing is left to run" : schedule ? `${hoursText(schedule.seconds)} ± ${hoursText(schedule.sd)} of work` : "Planning"}>
        {schedule && !nothing && <Fit schedule={schedule} deadlineMs={model.review.deadlineMs} zone={zone} />}
      </StepHead>
      <Flex gap="4" align="center" minH="22px" mb="3" color="quiet" textStyle="small" wrap="wrap">
        {made.progress ? (
          <>
            <span>
              ordering, {Math.round(100 * made.progress.share)} %
              {Number.isFinite(made.progress.gap) ? `, gap to the lower bound ${(100 * made.progress.gap).toFixed(1)} %` : ""}
            </span>
            <Button size="xs" variant="outline" onClick={made.cancel}>
              Cancel
            </Button>
          </>
        ) : (
          made.plan &&
          !nothing && (
            <span data-plan-quality>
              {made.plan.order.exact
                ? "No order is shorter: every one was weighed"
                : `At most ${(100 * (made.plan.order.makespanMinutes / made.plan.order.lowerBoundMinutes - 1)).toFixed(1)} % longer than any order can be`}
              {`, ${hoursText(made.plan.order.changeMinutes * 60)} of it changing parts; ordered in ${((made.tookMs ?? 0) / 1000).toFixed(1)} s. `}
              {model.observations.length > 0
                ? `Times learned from ${model.observations.length} measured steps.`
                : "Times are assumed until the first run sheet is worked through."}
            </span>
          )
        )}
        <Trouble text={made.trouble} />
      </Flex>
      {made.plan?.notes.map((note) => (
        <Text key={note} color="doubt" mb="2">
          {note}
        </Text>
      ))}
      {made.plan?.left.map(({ setupId, reason }) => (
        <Text key={setupId} color="doubt" mb="2">
          {names.setup(setupId)} is not planned: {reason}.
        </Text>
      ))}
      {editingHours && <LabHoursEditor hours={model.hours} rowVersion={model.hoursVersion} save={setLabHours} onClose={() => setEditingHours(false)} />}
      {schedule && !nothing && <PlanTimeline model={model} schedule={schedule} stretches={stretches} startMs={plannedMs} />}
      <Grid templateColumns={{ base: "1fr", lg: "250px minmax(0, 1fr)" }} gap="10" mt="6">
        <Flex direction="column" gap="4">
          <Box>
            <Text fontWeight="600">Benches</Text>
            {model.benches.map(({ id, revision, name, twinOf }) => {
              const key = `${id}@${revision}`;
              return (
                <Tick
                  key={key}
                  label={`${name}, revision ${revision}`}
                  hint={twinOf.length > 0 ? `declared twin of ${twinOf.map((twin) => `${names.bench(twin.id)} ${twin.revision}`).join(", ")}` : ""}
                  checked={choices.benches.includes(key)}
                  onChange={(on) => change({ benches: on ? [...choices.benches, key] : choices.benches.filter((one) => one !== key) })}
                />
              );
            })}
            <Tick label="one operator serves all" checked={choices.oneOperator} onChange={(oneOperator) => change({ oneOperator })} />
          </Box>
          <Box>
            <Text fontWeight="600">Against drift</Text>
            <Tick label="baseline again at the end" checked={choices.policy.baselineLast} onChange={(baselineLast) => policy({ baselineLast })} />
            <Tick label="and after every second setup" checked={choices.policy.baselineEvery > 0} onChange={(on) => policy({ baselineEvery: on ? 2 : 0 })} />
            <Tick
              label="forward and back, A-B-B-A"
              hint="half of the runs each way"
              checked={choices.policy.alternate}
              onChange={(alternate) => policy({ alternate })}
            />
          </Box>
          <Box>
            <TextField
              label="begins, UTC"
              type="datetime-local"
              value={choices.startAt.slice(0, 16)}
              onChange={(text) => text && change({ startAt: new Date(`${text}:00Z`).toISOString() })}
              width="210px"
              hint={momentText(startMs, zone)}
            />
            <Button size="xs" variant="outline" mt="3" onClick={() => setEditingHours(!editingHours)}>
              Lab hours
            </Button>
          </Box>
          <Flex direction="column" gap="2" align="start">
            <Button size="sm" disabled={busy || !schedule || nothing || inForce || made.progress !== undefined} onClick={() => void save()}>
              {inForce ? `Plan ${model.saved?.number} is in force` : model.saved ? `Put plan ${model.saved.number + 1} in force` : "Put this plan in force"}
            </Button>
            <Trouble text={trouble} />
            {schedule && !nothing && (
              <Flex gap="4">
                <Link
                  as="button"
                  color="accent.fg"
                  onClick={() =>
                    download(
                      `${model.review.id}.ics`,
                      "text/calendar",
                      toICalendar(schedule, names, { id: model.review.id, title: model.review.title, deadlineMs: model.review.deadlineMs }, nowMs),
                    )
                  }
                >
                  iCalendar
                </Link>
                <Link as="button" color="accent.fg" onClick={() => download(`${model.review.id}-plan.csv`, "text/csv", toPlanCsv(schedule, names))}>
                  CSV
                </Link>
              </Flex>
            )}
            {model.saved?.plan.benches.map(({ id }) => (
              <Link key={id} asChild color="accent.fg" fontWeight="600">
                <NextLink href={`/sheet/${model.review.id}/${id}`}>
                  {model.saved?.started ? "Run sheet" : "Start the run sheet"}, {names.bench(id)}
                </NextLink>
              </Link>
            ))}
          </Flex>
        </Flex>
        <Box minW="0">
          <LeaveOuts model={model} choices={choices} proposals={made.leaveOuts} onCuts={(cuts) => change({ cuts })} />
        </Box>
      </Grid>
      <Box mt="8">{schedule && !nothing && <HoursGrid model={model} schedule={schedule} />}</Box>
      <StepFoot legend="± is one standard deviation: single steps differ, and how long a kind of step takes on average is itself not sure." />
    </Box>
  );
}

/** Whether the plan fits the embargo, in words. */
function Fit({ schedule, deadlineMs, zone }: { schedule: Schedule; deadlineMs: number | null; zone: string }) {
  if (schedule.endsMs === null) return <Text color="doubt">It does not end within the calendar: the lab has too few open hours.</Text>;
  const ends = `ends ${momentText(schedule.endsMs, zone)} ± ${hoursText(schedule.endSd)}`;
  if (deadlineMs === null || schedule.slackSeconds === null) return <Text color="quiet">{ends}; no embargo is set</Text>;
  if (schedule.slackSeconds < 0)
    return (
      <Text color="doubt" fontWeight="600">
        {ends}, {hoursText(schedule.slackSeconds)} of open time too late; {schedule.late.length}{" "}
        {schedule.late.length === 1 ? "piece of work misses" : "pieces of work miss"} the embargo
      </Text>
    );
  const tight = schedule.slackSeconds < 1.6 * schedule.endSd;
  return (
    <Text color={tight ? "doubt" : "quiet"}>
      {ends}, {hoursText(schedule.slackSeconds)} of open time before the embargo{tight ? "; it may well not fit" : ""}
    </Text>
  );
}
