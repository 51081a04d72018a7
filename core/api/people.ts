export interface Me {
  readonly name: string;
  readonly role: "owner";
}
