export {
  clearDeadline,
  type Deadline,
  type DeadlineKind,
  type Deadlines,
  newDeadlines,
  nextDeadline,
  setDeadline,
  takeDue,
} from "./deadlines.ts";
