import type { AddressInfo } from "node:net";
import { startInstrumentHost } from "#sim/instrumentHost";
import { openDatabase } from "@/db/client";
import { registerHost } from "@/server/instrumentHosts";

/** Starts the stand-ins for instruments on a free port of loopback and tells the lab where they are. */
const server = await startInstrumentHost(Number(process.env.PARVEX_INSTRUMENTS_PORT ?? 0), 20261119);
const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
const database = openDatabase(process.env.DATABASE_URL ?? "");
await registerHost(
  { database, now: () => new Date() },
  { personId: "operator", name: "Parvex" },
  { address, name: "Simulated bench", replacing: "Simulated bench" },
);
await database.$client.end();
console.log(`instruments ${address}`);
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => process.exit(0));
