/** Pages that show nothing of a time that is chosen: no rail stands under them. */
const timeless: readonly RegExp[] = [
  /^\/sources\/(connect|tokens|sent-on|transport|costs|condition)$/,
  /^\/alerts\/(recipients|quiet)$/,
  /^\/(account|people|recordings|steadiness)(\/|$)/,
  /^\/planning\/(space|fit|month|watching)$/,
];

export const isTimeless = (pathname: string): boolean => timeless.some((path) => path.test(pathname));
