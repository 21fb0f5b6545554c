import { cookies } from "next/headers";
import { realDeps } from "@/server/deps";
import { type Actor, findActor } from "@/server/useCase";

export const PERSON_COOKIE = "parvex_person";

/** Who acts in this request, from the choice at the top right; undefined while nobody has chosen. */
export async function currentActor(): Promise<Actor | undefined> {
  const personId = (await cookies()).get(PERSON_COOKIE)?.value;
  return personId ? findActor(realDeps(), personId) : undefined;
}
