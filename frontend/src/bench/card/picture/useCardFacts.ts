import { answer, api } from "../../../api/client";
import { useOfCard } from "../useOfCard";

/** What is measured of a card's picture on the frame the hand rests on; not asked for while it is not `wanted`. */
export const useCardFacts = (card: string, wanted = true) =>
  useOfCard("card facts", card, wanted, (params) => answer(api.GET("/api/shots/{shot_id}/card-facts", { params })))
    .data;
