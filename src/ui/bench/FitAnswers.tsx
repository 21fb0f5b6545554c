import { Box, Flex, Text } from "@chakra-ui/react";
import { type FitAnswer, type FitVerdict, overallFit } from "@/core/bench";

const MARKS: Record<FitVerdict, string> = { fits: "✓", "fits with a note": "!", "not known": "?", "does not fit": "×" };

/** A verdict of compatibility: its mark and its words, never colour alone. */
export function FitMark({ verdict }: { verdict: FitVerdict }) {
  return (
    <Text as="span" color={verdict === "fits" ? "ink" : "doubt"} fontWeight={verdict === "does not fit" ? "600" : "500"} whiteSpace="nowrap">
      <Box as="span" display="inline-block" w="14px" aria-hidden>
        {MARKS[verdict]}
      </Box>
      {verdict}
    </Text>
  );
}

/** Whether parts go together: the verdict, and each rule that is not simply "fits" with its reason; all of them on request. */
export function FitAnswers({ answers, all = false }: { answers: readonly FitAnswer[]; all?: boolean }) {
  const shown = all ? answers : answers.filter(({ verdict }) => verdict !== "fits");
  return (
    <Box>
      <FitMark verdict={overallFit(answers)} />
      {shown.map(({ rule, verdict, reason }) => (
        <Flex key={`${rule}${reason}`} gap="2" textStyle="small" color={verdict === "fits" ? "quiet" : "ink"}>
          <Box as="span" w="14px" flexShrink="0" textAlign="center" aria-hidden>
            {all ? MARKS[verdict] : ""}
          </Box>
          <span>
            {rule}: {reason}
          </span>
        </Flex>
      ))}
    </Box>
  );
}
