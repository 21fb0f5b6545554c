"use client";

import { Box, Button, Flex, Grid, Link, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { HostLine } from "@/core/report";
import { TickRuler } from "../charts/TickRuler";
import { TextField, Tick, Trouble, useAction } from "../forms/fields";
import type { ActionAnswer } from "../review/ReviewContext";
import { PracticePanel } from "./PracticePanel";

export interface InstrumentActions {
  registerHost: (input: unknown) => Promise<ActionAnswer>;
  removeHost: (input: unknown) => Promise<ActionAnswer>;
  switchFaults: (input: unknown) => Promise<ActionAnswer>;
  practise: (input: unknown) => Promise<ActionAnswer<Record<string, unknown>>>;
}

/** The lab's instruments: which answer, what they measure, the stand-ins' faults, and practice. */
export function InstrumentsPage({ hosts, actions }: { hosts: HostLine[]; actions: InstrumentActions }) {
  const { busy, trouble, act } = useAction();
  const [address, setAddress] = useState("");
  const [name, setName] = useState("");
  const standIns = hosts.filter(({ list }) => list?.simulated);
  return (
    <Box as="main" px={{ base: 3, md: 5 }} pt="6" pb="16" maxW="1240px" mx="auto">
      <Text as="h1" fontSize="26px" lineHeight="34px" fontWeight="600" letterSpacing="-0.015em" mb="3">
        Instruments
      </Text>
      <TickRuler steps={12} minor={5} />
      <Text mt="3">
        {/* A whole load, not a step within the page: the page is isolated by its own headers. */}
        <Link href="/instruments/browser" color="accent.fg">
          Record frame times in this browser
        </Link>
        , or time a command line with npm run record.
      </Text>
      {hosts.length === 0 && (
        <Text color="quiet" py="4">
          No instrument answers here yet. Name the address of a program that speaks the interface of docs/instruments.md; without one, results are typed into
          the run sheet or taken in as logs.
        </Text>
      )}
      {hosts.map((host) => (
        <Box key={host.address} mt="4">
          <Flex align="baseline" gap="4" wrap="wrap">
            <Text textStyle="title">{host.list?.name ?? host.name}</Text>
            <Text color="quiet">{host.address}</Text>
            <Text color={host.list ? "quiet" : "doubt"}>{host.list ? "answers" : host.trouble}</Text>
            <Button size="2xs" variant="outline" ml="auto" disabled={busy} onClick={() => void act(() => actions.removeHost({ address: host.address }))}>
              Forget it
            </Button>
          </Flex>
          {host.list?.instruments.map((instrument) => (
            <Grid key={instrument.id} templateColumns="220px minmax(0, 1fr)" gap="5" py="1.5" borderTop="1px solid" borderColor="hairline">
              <Text fontWeight="500">{instrument.name}</Text>
              <Text color="quiet">{[...(instrument.id === "frames" ? ["frame time, ms"] : []), ...instrument.channels].join(", ")}</Text>
            </Grid>
          ))}
          {host.list?.simulated && (
            <Box mt="4">
              <Text fontWeight="600">Faults of the stand-ins</Text>
              {host.list.simulated.practising ? (
                <Text color="quiet">Hidden while somebody practises.</Text>
              ) : (
                <Grid templateColumns={{ base: "1fr 1fr", md: "repeat(3, 1fr)" }} columnGap="6">
                  {host.list.simulated.faults.map(({ id, name: fault }) => (
                    <Tick
                      key={id}
                      label={fault}
                      checked={host.list?.simulated?.on.includes(id) ?? false}
                      onChange={(on) => {
                        const now = host.list?.simulated?.on ?? [];
                        void act(() => actions.switchFaults({ address: host.address, on: on ? [...now, id] : now.filter((one) => one !== id) }));
                      }}
                    />
                  ))}
                </Grid>
              )}
            </Box>
          )}
        </Box>
      ))}
      <Trouble text={trouble} />
      {standIns.map((host) => (
        <PracticePanel key={host.address} host={host} practise={actions.practise} />
      ))}
      <Box mt="10" maxW="720px">
        <Text fontWeight="600" mb="1">
          Add instruments
        </Text>
        <Flex gap="4" align="end">
          <TextField label="address" value={address} onChange={setAddress} placeholder="http://127.0.0.1:4700" />
          <TextField label="name" value={name} onChange={setName} placeholder="Bench recorder" />
          <Button
            size="sm"
            disabled={busy || address === ""}
            onClick={async () => {
              if ((await act(() => actions.registerHost({ address, name }))) !== undefined) setAddress("");
            }}
          >
            Add
          </Button>
        </Flex>
        <Text textStyle="small" color="quiet" mt="2">
          Mains power is only metered by a finished, rated plug-in meter. Anything behind the wall or a panel is for licensed electricians under local codes.
        </Text>
      </Box>
    </Box>
  );
}
