import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { createRandom } from "@/core/random";
import { FAULTS, INSTRUMENTS } from "./faults";
import { AMBIENT_C, type PlayedMessage, playRecording, type RecordingRequest } from "./playRecording";

/** Messages leave in slices of this much real time. */
const SLICE_MS = 80;
const MOST_PACE = 1000;
const IDLE_C = AMBIENT_C + 9;
/** Seconds by which a card loses two thirds of its heat. */
const COOLS_IN_S = 110;

async function readJson(request: IncomingMessage): Promise<Record<string, unknown>> {
  let text = "";
  for await (const chunk of request) {
    text += chunk;
    if (text.length > 100_000) throw new Error("the request is too long");
  }
  return text === "" ? {} : (JSON.parse(text) as Record<string, unknown>);
}

const answer = (response: ServerResponse, status: number, body: unknown) => {
  response.writeHead(status, { "content-type": "application/json; charset=utf-8" });
  response.end(JSON.stringify(body));
};

/** Sends messages as server-sent events when their bench time has come, hurried by the pace; stops when nobody listens. */
async function stream(response: ServerResponse, messages: readonly PlayedMessage[], pace: number): Promise<void> {
  response.writeHead(200, { "content-type": "text/event-stream; charset=utf-8", "cache-control": "no-store" });
  const startS = messages[0]?.t_s ?? 0;
  const started = Date.now();
  let open = true;
  response.on("close", () => (open = false));
  for (let i = 0; i < messages.length && open; ) {
    const untilS = startS + ((Date.now() - started) / 1000) * pace;
    let text = "";
    while (i < messages.length && (messages[i] as PlayedMessage).t_s <= untilS) {
      text += `data: ${JSON.stringify(messages[i])}\n\n`;
      i += 1;
    }
    if (text && !response.write(text)) await new Promise((resolve) => response.once("drain", resolve));
    if (i < messages.length) await new Promise((resolve) => setTimeout(resolve, SLICE_MS));
  }
  response.end();
}

/**
 * The stand-ins of the demo lab as a host of instruments: they speak the interface of docs/instruments.md like a real
 * device, and take switches for faults and a practice mode beside it.
 */
export function startInstrumentHost(port: number, seed: number): Promise<Server> {
  const on = new Set<string>();
  let practice: string | undefined;
  // The card cools after a recording, hurried as the recording was.
  let lastEnd: { atMs: number; gpuC: number; pace: number } | undefined;
  const random = createRandom(seed);
  const handle = async (request: IncomingMessage, response: ServerResponse) => {
    const path = `${request.method} ${(request.url ?? "").split("?")[0]}`;
    if (path === "GET /instruments") {
      return answer(response, 200, {
        name: "Simulated bench",
        instruments: INSTRUMENTS,
        simulated: { faults: FAULTS.map(({ id, name }) => ({ id, name })), on: [...on], practising: practice !== undefined },
      });
    }
    if (path === "POST /recordings") {
      const asked = (await readJson(request)) as unknown as RecordingRequest & { clean?: boolean };
      const pace = Math.min(MOST_PACE, Math.max(1, Number(asked.pace) || 1));
      const active = asked.clean ? new Set<string>() : practice ? new Set([practice]) : on;
      const messages = playRecording(asked, active, seed);
      await stream(response, messages, pace);
      const last = messages.findLast((message) => message.kind === "sensors");
      lastEnd = { atMs: Date.now(), gpuC: last?.kind === "sensors" ? (last.values.gpu_c ?? AMBIENT_C) : AMBIENT_C, pace };
      return;
    }
    if (path === "GET /readings") {
      const sinceS = lastEnd ? ((Date.now() - lastEnd.atMs) / 1000) * lastEnd.pace : 0;
      const gpuC = lastEnd ? IDLE_C + Math.max(0, lastEnd.gpuC - IDLE_C) * Math.exp(-sinceS / COOLS_IN_S) : IDLE_C;
      return answer(response, 200, { values: { gpu_c: Math.round(gpuC * 10) / 10, ambient_c: AMBIENT_C } });
    }
    if (path === "POST /faults") {
      const wanted = (await readJson(request)).on;
      const list = Array.isArray(wanted) ? wanted.map(String) : [];
      const unknown = list.find((id) => !FAULTS.some((fault) => fault.id === id));
      if (unknown) return answer(response, 422, { problem: `There is no fault ${unknown}.` });
      on.clear();
      for (const id of list) on.add(id);
      return answer(response, 200, { on: [...on] });
    }
    if (path === "POST /practice") {
      practice = FAULTS[Math.floor(random.next() * FAULTS.length)]?.id;
      return answer(response, 200, { practising: true });
    }
    if (path === "POST /practice/answer") {
      const { guess } = await readJson(request);
      if (!practice) return answer(response, 409, { problem: "Nobody is practising." });
      const fault = FAULTS.find(({ id }) => id === practice);
      practice = undefined;
      return answer(response, 200, { right: guess === fault?.id, fault: fault?.id, name: fault?.name, seen: fault?.seen });
    }
    return answer(response, 404, { problem: "There is nothing at this path; see docs/instruments.md." });
  };
  const server = createServer((request, response) => {
    handle(request, response).catch((error: Error) => {
      if (!response.headersSent) answer(response, 400, { problem: error.message });
      else response.destroy();
    });
  });
  return new Promise((resolve, reject) => {
    server.on("error", reject);
    server.listen(port, "127.0.0.1", () => resolve(server));
  });
}
