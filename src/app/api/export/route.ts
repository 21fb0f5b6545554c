import { z } from "zod";
import { isForeign } from "@/app/answer";
import { Slug } from "@/core/bench";
import { realDeps } from "@/server/deps";
import { exportZip } from "@/server/exportPackage";

const Scope = z.object({ review: Slug.optional() });

/** The lab, or one review of it, as a zipped package. */
export async function GET(request: Request): Promise<Response> {
  const scope = Scope.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (isForeign(request) || !scope.success) return Response.json({ sentence: "This export cannot be made." }, { status: 400 });
  const name = scope.data.review ?? "parvex-lab";
  return new Response(exportZip(realDeps(), { reviewId: scope.data.review }), {
    headers: { "content-type": "application/zip", "content-disposition": `attachment; filename="${name}.zip"` },
  });
}
