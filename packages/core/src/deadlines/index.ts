export {
  clearDeadline,
  type Deadline,
  type DeadlineKind,
  type Deadlines,
  hasDeadline,
  newDeadlines,
  nextDeadline,
  setDeadline,
  takeDue,
} from "./deadlines.ts";
