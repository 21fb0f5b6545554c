"use client";

import { Box, CloseButton, Drawer, Portal, Text } from "@chakra-ui/react";
import { useReviewState } from "../review/ReviewContext";
import { CellEvidence } from "./CellEvidence";
import { IndexEvidence } from "./IndexEvidence";
import { ValueEvidence } from "./ValueEvidence";

/** What evidence an address asks for: `cell:<setup>/<test>`, `index:<metric>:<setup>`, `value:<setup>`. */
function EvidenceFor({ show }: { show: string }) {
  const [kind, ...rest] = show.split(":");
  const name = rest.join(":");
  if (kind === "cell") return <CellEvidence cell={name} />;
  if (kind === "index") return <IndexEvidence metric={rest[0] ?? ""} setupId={rest.slice(1).join(":")} />;
  if (kind === "value") return <ValueEvidence setupId={name} />;
  return <Text color="quiet">There is nothing behind this address.</Text>;
}

/** The evidence behind a number, over the content at its right; Esc closes it. */
export function EvidenceDrawer() {
  const { show, setState } = useReviewState();
  return (
    <Drawer.Root
      open={show !== null}
      onOpenChange={({ open }) => !open && setState({ show: null })}
      size="sm"
      modal={false}
      closeOnInteractOutside={false}
      trapFocus={false}
      preventScroll={false}
    >
      <Portal>
        <Drawer.Positioner pointerEvents="none">
          <Drawer.Content bg="raised" borderLeft="1px solid" borderColor="hairline" boxShadow="none" pointerEvents="auto" maxW={{ base: "100%", md: "440px" }}>
            <Box position="absolute" top="2" right="2" zIndex="1">
              <Drawer.CloseTrigger asChild position="static">
                <CloseButton size="sm" aria-label="Close the evidence" />
              </Drawer.CloseTrigger>
            </Box>
            <Drawer.Body px="5" py="4">
              {show !== null && <EvidenceFor show={show} />}
            </Drawer.Body>
          </Drawer.Content>
        </Drawer.Positioner>
      </Portal>
    </Drawer.Root>
  );
}
