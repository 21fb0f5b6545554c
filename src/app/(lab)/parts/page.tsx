import type { Metadata } from "next";
import { updateOfferAction } from "@/app/(lab)/actions";
import { realDeps } from "@/server/deps";
import { loadParts } from "@/server/loadParts";
import { PartsTable } from "@/ui/parts/PartsTable";

export const metadata: Metadata = { title: "Parts and prices" };

export default async function PartsPage() {
  return <PartsTable {...(await loadParts(realDeps()))} updateOffer={updateOfferAction} />;
}
