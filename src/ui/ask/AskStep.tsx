"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useState } from "react";
import { QUESTIONS, QuestionKind } from "@/core/plan";
import { TextField, Trouble, useAction } from "../forms/fields";
import { StepHead } from "../review/controls";
import { useReview } from "../review/ReviewContext";
import { rowStyle, SpineCell } from "../review/SpineCell";

const ROLE_WORDS = { subject: "what the question is about", peer: "a rival", owned: "what people own" } as const;

/** The Ask step: the question, its rows and their roles, what is held constant, until when. */
export function AskStep() {
  const { whole: model, actions } = useReview();
  const { busy, trouble, act } = useAction();
  const kind = QuestionKind.safeParse(model.questionKind).data;
  const [question, setQuestion] = useState(model.question ?? "");
  const [until, setUntil] = useState(model.embargoUntil?.slice(0, 16) ?? "");
  const changed = question !== (model.question ?? "") || until !== (model.embargoUntil?.slice(0, 16) ?? "");
  const save = () => act(() => actions.changeReview({ reviewId: model.id, question, embargoUntil: until ? `${until}:00Z` : null }));
  return (
    <Box>
      <StepHead title={model.question ?? "What is to be answered?"} />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0, 1fr) 380px" }} gap="10">
        <Box>
          {model.setups.map((setup) => (
            <Grid key={setup.id} templateColumns="280px minmax(0, 1fr)" columnGap="5" {...rowStyle(false)}>
              <SpineCell setup={setup} />
              <Text color="quiet">
                {setup.role ? ROLE_WORDS[setup.role] : ""}
                {setup.id === model.baselineId ? ", and the baseline" : ""}
              </Text>
            </Grid>
          ))}
        </Box>
        <Box>
          <Text fontWeight="600">{kind ? QUESTIONS[kind].name : "A question of its own"}</Text>
          <Text color="quiet" mb="4">
            {kind ? QUESTIONS[kind].asks : ""}
          </Text>
          <Flex direction="column" gap="3">
            <TextField label="question" value={question} onChange={setQuestion} />
            <TextField label="embargo until, UTC" type="datetime-local" value={until} onChange={setUntil} width="220px" />
            <Flex>
              <Button size="sm" disabled={busy || !changed} onClick={() => void save()}>
                Save the question
              </Button>
            </Flex>
            <Trouble text={trouble} />
          </Flex>
          <Text fontWeight="600" mt="6" mb="1">
            Held constant
          </Text>
          <Text color="quiet">{model.constants.length > 0 ? model.constants.join(", ") : "Everything but the part under test."}</Text>
        </Box>
      </Grid>
    </Box>
  );
}
