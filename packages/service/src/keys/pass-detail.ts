/** Why a pass is not taken, by code: for whoever it was shown to. */
export const passDetail = {
  "pass-invalid": "The pass was not signed by this harbor; let nobody in with it.",
  "pass-expired": "The pass has expired; the player asks the service for the room's travel as it stands.",
  "pass-foreign": "The pass is for another instance; the player has to go to the address it was given with the pass.",
};
