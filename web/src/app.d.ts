declare global {
  namespace App {
    interface Error {
      message: string;
    }
    interface PageData {
      /** What is looked at has a fixed time, which has only just passed: more of it may come. */
      isSettling?: boolean;
    }
    interface Locals {
      /** True for whoever may read: nothing is loaded for others. */
      signedIn: boolean;
      /** The session of this browser; '' where it came with the token itself, or none is asked for. */
      session: string;
    }
  }
}
export {};
