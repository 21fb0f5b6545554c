import { redirect } from "next/navigation";

export default async function ReviewPage({ params }: { params: Promise<{ id: string }> }) {
  redirect(`/reviews/${(await params).id}/run`);
}
