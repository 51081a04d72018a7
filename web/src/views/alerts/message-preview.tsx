import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useDeferredValue } from "react";
import { previewMessage } from "../../../../core/api/messages.ts";
import type { RecipientTexts } from "../../../../core/messages/recipient.ts";
import { call } from "../../api/client.ts";

/** How a recipient's texts come out of the newest incident, while they are typed. */
export function MessagePreview({ texts, zone }: { texts: RecipientTexts; zone: string }): ReactNode {
  const asked = useDeferredValue(texts);
  const preview = useQuery({
    queryKey: ["preview", asked, zone],
    queryFn: ({ signal }) => call(previewMessage, {}, { texts: asked, zone }, { signal }),
    placeholderData: (before) => before,
    retry: false,
  });
  return (
    <div className="my-3 border-l border-hairline pl-5" data-texts-preview>
      <h2 className="text-[13px] text-quiet">What would be told of the newest incident</h2>
      {preview.error && (
        <p role="alert" className="text-urgent">
          {preview.error.message}
        </p>
      )}
      {preview.data && (
        <>
          <p className="mt-1 font-semibold">{preview.data.subject}</p>
          <pre className="mt-1 text-[13.5px] whitespace-pre-wrap">{preview.data.text}</pre>
        </>
      )}
    </div>
  );
}
