export {
  clearDeadline,
  type Deadline,
  type Deadlines,
  hasDeadline,
  newDeadlines,
  nextDeadline,
  setDeadline,
  takeDue,
} from "./deadlines.ts";
