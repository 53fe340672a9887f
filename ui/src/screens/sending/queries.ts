import { useGetSubmission } from "../../api/operations";

export const useSendOut = (id: number) => useGetSubmission({ path: { id } });
