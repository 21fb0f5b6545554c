"use client";

import { Box, Button, Link, Text } from "@chakra-ui/react";
import NextLink from "next/link";

/** A whole page that only says something: what is missing or broken, and the ways on. */
export function Notice({ title, text, onRetry }: { title: string; text: string; onRetry?: () => void }) {
  return (
    <Box as="main" maxW="560px" mx="auto" px="5" py="24">
      <Text as="h1" textStyle="title" mb="2">
        {title}
      </Text>
      <Text color="quiet" mb="6">
        {text}
      </Text>
      {onRetry && (
        <Button size="sm" mr="5" onClick={onRetry}>
          Try again
        </Button>
      )}
      <Link asChild color="accent.fg">
        <NextLink href="/">To the lab</NextLink>
      </Link>
    </Box>
  );
}
