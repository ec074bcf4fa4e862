import { useParams } from "react-router";
import { Empty } from "../kit/Empty";
import { useInquiry, useLines } from "./useInquiry";
import { WorkSurface } from "./WorkSurface";

/** One inquiry: its lines as they are decided. */
export function InquiryScreen() {
  const id = Number(useParams().id);
  const inquiry = useInquiry(id);
  const lines = useLines(id);
  const error = inquiry.error ?? lines.error;
  if (error && !inquiry.data)
    return (
      <Empty title="Inquiry">
        <p role="alert">{error.message}</p>
      </Empty>
    );
  if (!inquiry.data || !lines.data)
    return (
      <p role="status" className="p-4 text-ink-2">
        Reading the inquiry …
      </p>
    );
  return <WorkSurface key={id} inquiry={inquiry.data} lines={lines.data.lines} />;
}
