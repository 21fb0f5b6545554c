"use client";

import { Box, chakra, Flex, Link, NativeSelect, Text } from "@chakra-ui/react";
import { Command } from "cmdk";
import { Monitor, Moon, Sun } from "lucide-react";
import NextLink from "next/link";
import { useRouter } from "next/navigation";
import { useTheme } from "next-themes";
import { useEffect, useState } from "react";
import { Underway } from "./Underway";

interface Props {
  people: { id: string; name: string; role: string }[];
  personId: string | null;
  reviews: { id: string; title: string }[];
  choosePerson: (personId: string) => Promise<void>;
}

const Brand = chakra(NextLink);

/** What belongs to the lab rather than to one review. */
const PLACES = [
  ["/intake", "Take in"],
  ["/doubts", "Doubts"],
  ["/parts", "Parts and prices"],
  ["/benches", "Benches"],
  ["/suites", "Suites"],
  ["/instruments", "Instruments"],
] as const;

const STEPS = ["ask", "bench", "suite", "plan", "run", "check", "compare", "value", "power", "say"];

/** The lab's head: the way home, to parts and prices, the command field, who is working, light or dark. */
export function LabHeader({ people, personId, reviews, choosePerson }: Props) {
  const router = useRouter();
  const [finding, setFinding] = useState(false);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setFinding((open) => !open);
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  const choose = async (id: string) => {
    await choosePerson(id);
    router.refresh();
  };
  const go = (path: string) => {
    setFinding(false);
    router.push(path);
  };
  return (
    <>
      <Underway />
      <Flex as="header" px={{ base: 3, md: 5 }} h="40px" align="center" gap={{ base: 3, md: 6 }}>
        <Brand prefetch={false} href="/" aria-label="Parvex, lab home" fontWeight="700" letterSpacing="-0.01em" color="ink">
          Par<chakra.span color="accent.fg">v</chakra.span>ex
        </Brand>
        <Flex as="nav" aria-label="The lab" gap={{ base: 3, md: 5 }} overflowX="auto">
          {PLACES.map(([href, name]) => (
            <Link key={href} asChild color="quiet" whiteSpace="nowrap">
              <NextLink href={href} prefetch={false}>
                {name}
              </NextLink>
            </Link>
          ))}
        </Flex>
        <chakra.button
          type="button"
          onClick={() => setFinding(true)}
          ml="auto"
          display={{ base: "none", md: "flex" }}
          justifyContent="space-between"
          w="250px"
          color="quiet"
          borderBottom="1px solid"
          borderColor="hairline"
          cursor="pointer"
        >
          Go to, find, do …
          <Text as="span" textStyle="figure">
            Ctrl K
          </Text>
        </chakra.button>
        <NativeSelect.Root size="xs" variant="plain" w="auto" ml={{ base: "auto", md: 0 }}>
          <NativeSelect.Field
            aria-label="Who is working"
            value={personId ?? ""}
            onChange={(event) => void choose(event.currentTarget.value)}
            color={personId ? "ink" : "doubt"}
            fontSize="14px"
            pe="5"
            ps="0"
            cursor="pointer"
            bg="transparent"
          >
            {!personId && <option value="">who is working?</option>}
            {people.map(({ id, name, role }) => (
              <option key={id} value={id}>
                {name}, {role}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <ThemeSwitch />
      </Flex>
      {finding && (
        <Box position="fixed" inset="0" zIndex="40" bg="color-mix(in srgb, var(--chakra-colors-ink) 18%, transparent)" onClick={() => setFinding(false)}>
          <Box
            role="dialog"
            aria-label="Go to"
            data-state="open"
            mx="auto"
            mt="12vh"
            w="min(560px, 94vw)"
            bg="raised"
            border="1px solid"
            borderColor="hairline"
            onClick={(event) => event.stopPropagation()}
            css={COMMAND_CSS}
          >
            <Command label="Go to, find, do" loop onKeyDown={(event) => event.key === "Escape" && setFinding(false)}>
              <Command.Input autoFocus placeholder="Go to, find, do …" />
              <Command.List>
                <Command.Empty>Nothing by that name.</Command.Empty>
                <Command.Item onSelect={() => go("/")}>Lab home</Command.Item>
                <Command.Item onSelect={() => go("/reviews/new")}>Start a review</Command.Item>
                {PLACES.map(([href, name]) => (
                  <Command.Item key={href} onSelect={() => go(href)}>
                    {name}
                  </Command.Item>
                ))}
                {reviews.flatMap(({ id, title }) =>
                  STEPS.map((step) => (
                    <Command.Item key={`${id}/${step}`} value={`${title} ${step}`} onSelect={() => go(`/reviews/${id}/${step}`)}>
                      {title}: {step}
                    </Command.Item>
                  )),
                )}
                {people.map(({ id, name }) => (
                  <Command.Item key={id} value={`work as ${name}`} onSelect={() => void choose(id).then(() => setFinding(false))}>
                    Work as {name}
                  </Command.Item>
                ))}
              </Command.List>
            </Command>
          </Box>
        </Box>
      )}
    </>
  );
}

const COMMAND_CSS = {
  "& input": {
    width: "100%",
    padding: "12px 16px",
    background: "transparent",
    outline: "none",
    fontSize: "16px",
    borderBottom: "1px solid var(--chakra-colors-hairline)",
  },
  "& [cmdk-list]": { maxHeight: "46vh", overflowY: "auto", padding: "6px 0" },
  "& [cmdk-item]": { padding: "5px 16px", cursor: "pointer" },
  "& [cmdk-item][data-selected=true]": { background: "var(--chakra-colors-accent-wash)" },
  "& [cmdk-empty]": { padding: "8px 16px", color: "var(--chakra-colors-quiet)" },
} as const;

const THEMES = ["system", "light", "dark"] as const;

/** Light, dark, or as the machine says. */
function ThemeSwitch() {
  const { theme, setTheme } = useTheme();
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  const now = THEMES.find((one) => one === theme) ?? "system";
  const next = THEMES[(THEMES.indexOf(now) + 1) % THEMES.length] as (typeof THEMES)[number];
  const Icon = { system: Monitor, light: Sun, dark: Moon }[now];
  return (
    <chakra.button
      type="button"
      cursor="pointer"
      color="quiet"
      w="28px"
      h="28px"
      display="grid"
      placeItems="center"
      aria-label={ready ? `Theme: ${now}; switch to ${next}` : "Theme"}
      title={ready ? `Theme: ${now}` : undefined}
      onClick={() => setTheme(next)}
    >
      {ready && <Icon size={16} />}
    </chakra.button>
  );
}
