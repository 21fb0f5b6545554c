import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { z } from "zod";
import { realDeps } from "@/server/deps";
import { loadReport } from "@/server/publishReport";
import { PublishedPage } from "@/ui/published/PublishedPage";

export const dynamic = "force-dynamic";

interface Props {
  params: Promise<{ slug: string }>;
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

const Version = z.coerce.number().int().positive().optional().catch(undefined);

const load = async ({ params, searchParams }: Props) => loadReport(realDeps(), (await params).slug, Version.parse((await searchParams).version));

export async function generateMetadata(props: Props): Promise<Metadata> {
  const report = await load(props);
  return { title: report?.snapshot.title ?? "No such report", description: report?.snapshot.question ?? undefined };
}

export default async function ReportPage(props: Props) {
  const report = await load(props);
  if (!report) notFound();
  return <PublishedPage report={report} />;
}
