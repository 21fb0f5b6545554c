"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { type ReactNode, useId, useState } from "react";
import type { ActionAnswer } from "../review/ReviewContext";

const line = { borderBottom: "1px solid", borderColor: "tick", bg: "transparent", w: "full", h: "28px", _placeholder: { color: "quiet" } } as const;

/** A label above its field, a hint below; the field gets the id that ties them. */
function Labelled({
  label,
  hint,
  width,
  hidden,
  children,
}: {
  label: string;
  hint?: string | undefined;
  width?: string | undefined;
  children: (id: string) => ReactNode;
  hidden?: boolean | undefined;
}) {
  const id = useId();
  return (
    <Box w={width ?? "full"} minW="0">
      <chakra.label htmlFor={id} display="block" textStyle="small" color="quiet" srOnly={hidden ?? false}>
        {label}
      </chakra.label>
      {children(id)}
      {hint && (
        <Text textStyle="small" color="quiet">
          {hint}
        </Text>
      )}
    </Box>
  );
}

interface FieldProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  hint?: string;
  width?: string;
  placeholder?: string;
  type?: string;
  list?: string;
}

/** A line to write on. */
export function TextField({ label, value, onChange, hint, width, placeholder, type = "text", list }: FieldProps) {
  return (
    <Labelled label={label} hint={hint} width={width}>
      {(id) => (
        <chakra.input
          id={id}
          type={type}
          value={value}
          placeholder={placeholder}
          list={list}
          onChange={(event) => onChange(event.currentTarget.value)}
          {...line}
        />
      )}
    </Labelled>
  );
}

/** Some lines to write on. */
export function TextArea({ label, value, onChange, hint }: FieldProps) {
  return (
    <Labelled label={label} hint={hint}>
      {(id) => (
        <chakra.textarea
          id={id}
          value={value}
          rows={3}
          onChange={(event) => onChange(event.currentTarget.value)}
          border="1px solid"
          borderColor="tick"
          bg="transparent"
          w="full"
          px="2"
          py="1"
        />
      )}
    </Labelled>
  );
}

/** A choice from a list. */
export function SelectField({
  label,
  value,
  onChange,
  options,
  width,
  hint,
  hidden,
}: Omit<FieldProps, "placeholder" | "type" | "list"> & { options: { value: string; label: string }[]; hidden?: boolean }) {
  return (
    <Labelled label={label} hint={hint} width={width} hidden={hidden}>
      {(id) => (
        <chakra.select
          id={id}
          value={value}
          onChange={(event) => onChange(event.currentTarget.value)}
          {...line}
          cursor="pointer"
          css={{ "& option": { background: "var(--chakra-colors-raised)" } }}
        >
          {options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </chakra.select>
      )}
    </Labelled>
  );
}

/** A switch that reads as a sentence. */
export function Tick({ label, checked, onChange, hint }: { label: ReactNode; checked: boolean; onChange: (checked: boolean) => void; hint?: string }) {
  return (
    <Flex as="label" gap="2" align="baseline" cursor="pointer" py="0.5">
      <chakra.input
        type="checkbox"
        checked={checked}
        onChange={(event) => onChange(event.currentTarget.checked)}
        accentColor="var(--chakra-colors-accent-solid)"
        flexShrink="0"
        position="relative"
        top="1px"
      />
      <Box as="span">
        {label}
        {hint && (
          <Text as="span" display="block" textStyle="small" color="quiet">
            {hint}
          </Text>
        )}
      </Box>
    </Flex>
  );
}

/** A line that narrows a list as one types. */
export function FilterField({
  what,
  value,
  onChange,
  hint,
  width = "180px",
}: {
  what: string;
  value: string;
  onChange: (value: string) => void;
  hint?: string;
  width?: string;
}) {
  return (
    <chakra.input
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
      placeholder={hint ?? `filter ${what}`}
      aria-label={`Filter ${what}`}
      w={width}
      bg="transparent"
      borderBottom="1px solid"
      borderColor="hairline"
      _placeholder={{ color: "quiet" }}
    />
  );
}

/** What went wrong, where it arose. */
export function Trouble({ text }: { text: string | undefined }) {
  return text ? (
    <Text role="alert" color="doubt" py="1">
      {text}
    </Text>
  ) : null;
}

/** Runs actions one at a time: what is under way, what went wrong; a success reads the page anew. */
export function useAction() {
  const router = useRouter();
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const act = async <T,>(action: () => Promise<ActionAnswer<T>>): Promise<T | undefined> => {
    setBusy(true);
    setTrouble(undefined);
    const answer = await action();
    setBusy(false);
    if (!answer.ok) {
      setTrouble(answer.sentence);
      return undefined;
    }
    router.refresh();
    return answer.value;
  };
  return { busy, trouble, setTrouble, act };
}

/** An id from a name: what is typed until somebody types another. */
export function idOf(name: string): string {
  return name
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);
}
