/**
 * What the scripts of the pages take for granted: an element found by its selector is of the sort that the
 * template made it, which no type checker can know.
 */
interface ParentNode {
  querySelector(selectors: string): any;
  querySelectorAll(selectors: string): NodeListOf<any>;
}

interface Element {
  closest(selectors: string): any;
}
