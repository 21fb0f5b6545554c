"use client";

import { Box, chakra, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { amountToDecimal, majorUnits, parseAmount } from "@/core/units";
import type { Offer } from "@/core/value";
import type { ActionAnswer } from "../review/ReviewContext";
import { priceText } from "./priceText";

interface Props {
  offer: Offer;
  label: string;
  /** Told on every keystroke, in major units; undefined once nothing is being tried. */
  onTry?: (price: number | undefined) => void;
  save: (input: { offerId: string; rowVersion: number; price: string }) => Promise<ActionAnswer<{ rowVersion: number; price: string }>>;
  onSaved: (undo: (() => void) | undefined) => void;
}

/** A price that can be typed over: what is typed re-ranks at once, Enter records it as seen today, Esc puts it back. */
export function PriceField({ offer, label, onTry, save, onSaved }: Props) {
  const shown = priceText(offer.price.minor, offer.price.currency);
  const [text, setText] = useState<string | undefined>(undefined);
  const [problem, setProblem] = useState<string | undefined>(undefined);
  const [busy, setBusy] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  // The version that this editor saw when starting to type: a newer one from elsewhere must not slip in.
  const seenVersion = useRef(offer.rowVersion);
  useEffect(() => {
    if (text === undefined) seenVersion.current = offer.rowVersion;
  }, [offer.rowVersion, text]);

  const plain = (typed: string) => typed.replaceAll(/[\s\u2009\u00a0]/g, "");
  const type = (typed: string) => {
    setText(typed);
    const amount = parseAmount(plain(typed), offer.price.currency);
    setProblem("reason" in amount ? amount.reason : amount.minor <= 0 ? "a price is above 0" : undefined);
    onTry?.("reason" in amount || amount.minor <= 0 ? undefined : majorUnits({ minor: amount.minor, currency: offer.price.currency }));
  };
  const putBack = () => {
    setText(undefined);
    setProblem(undefined);
    onTry?.(undefined);
  };
  const record = async () => {
    if (text === undefined || busy) return;
    if (plain(text) === plain(shown)) return putBack();
    const before = amountToDecimal(offer.price);
    setBusy(true);
    const answer = await save({ offerId: offer.id, rowVersion: seenVersion.current, price: plain(text) });
    setBusy(false);
    if (!answer.ok) {
      setProblem(answer.sentence);
      return;
    }
    setText(undefined);
    setProblem(undefined);
    onTry?.(undefined);
    field.current?.blur();
    onSaved(() => void save({ offerId: offer.id, rowVersion: answer.value.rowVersion, price: before }).then(() => onSaved(undefined)));
  };
  return (
    <Box position="relative">
      <chakra.input
        ref={field}
        aria-label={label}
        aria-invalid={problem !== undefined}
        value={text ?? shown}
        inputMode="decimal"
        disabled={busy}
        onChange={(event) => type(event.currentTarget.value)}
        onFocus={(event) => event.currentTarget.select()}
        onBlur={() => problem === undefined && text !== undefined && plain(text) === plain(shown) && putBack()}
        onKeyDown={(event) => {
          if (event.key === "Enter") void record();
          if (event.key === "Escape") {
            putBack();
            event.currentTarget.blur();
          }
        }}
        w="full"
        textAlign="right"
        bg="transparent"
        textStyle="figureStrong"
        h="26px"
        borderBottom="1px dashed"
        borderColor={problem ? "doubt" : text === undefined ? "tick" : "accent.solid"}
        color={text === undefined ? "ink" : "accent.fg"}
      />
      {text !== undefined && (
        <Text
          role={problem ? "alert" : "status"}
          position="absolute"
          right="0"
          top="100%"
          zIndex="4"
          bg="raised"
          border="1px solid"
          borderColor="hairline"
          px="2"
          py="1"
          fontSize="12.5px"
          w="max-content"
          maxW="300px"
          textAlign="left"
          color={problem ? "doubt" : "quiet"}
        >
          {problem ?? (busy ? "recording …" : "tried, not recorded: Enter records it as seen today, Esc puts it back")}
        </Text>
      )}
    </Box>
  );
}
