import type { Metadata } from "next";
import Link from "next/link";
import { realDeps } from "@/server/deps";
import { listReports } from "@/server/listReviews";

export const metadata: Metadata = { title: "Reports" };
export const dynamic = "force-dynamic";

export default async function ReportsPage() {
  const reports = await listReports(realDeps());
  return (
    <main style={{ maxWidth: 820, margin: "0 auto", padding: "48px 20px" }}>
      <h1 style={{ fontSize: 32, lineHeight: "40px", fontWeight: 650 }}>Reports</h1>
      {reports.length === 0 && <p>None is published yet.</p>}
      <ul style={{ listStyle: "none", padding: 0, marginTop: 16 }}>
        {reports.map(({ slug, title, publishedAt }) => (
          <li key={slug} style={{ padding: "8px 0" }}>
            <Link href={`/p/${slug}`}>{title}</Link>, {publishedAt.slice(0, 10)}
          </li>
        ))}
      </ul>
    </main>
  );
}
