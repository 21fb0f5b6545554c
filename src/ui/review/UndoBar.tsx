"use client";

import { Button, CloseButton, Flex, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";

/** What was just done, with the way back; stays until closed or undone. */
export function UndoBar({
  text,
  onUndo,
  onClose,
  link,
}: {
  text: string;
  onUndo: () => void;
  onClose: () => void;
  /** Where it goes on from here. */
  link?: { href: string; text: string } | undefined;
}) {
  return (
    <Flex
      role="status"
      position="fixed"
      bottom="5"
      left="50%"
      transform="translateX(-50%)"
      zIndex="20"
      bg="ink"
      color="paper"
      px="4"
      py="2"
      gap="4"
      align="center"
      borderRadius="l2"
      maxW="94vw"
    >
      <Text>{text}</Text>
      {link && (
        <Link asChild color="paper" textDecoration="underline">
          <NextLink href={link.href}>{link.text}</NextLink>
        </Link>
      )}
      <Button
        size="xs"
        variant="outline"
        color="paper"
        borderColor="paper"
        _hover={{ bg: "paper", color: "ink" }}
        onClick={() => {
          onUndo();
          onClose();
        }}
      >
        Undo
      </Button>
      <CloseButton size="xs" color="paper" _hover={{ bg: "quiet" }} onClick={onClose} aria-label="Close this note" />
    </Flex>
  );
}
