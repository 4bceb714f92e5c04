/** To whoever is said to have asked for something from outside: nothing that was typed stands in it, so that nobody sends words by it. */
export const confirmRequest = (item: string, hours: number, link: string): { subject: string; text: string } => ({
  subject: `Confirm your request: ${item}`,
  text: [
    `Somebody, we think you, asked for “${item}” and gave this address as theirs.`,
    '',
    `Open this page within ${hours} hours, look it over, and send it from there. Until then nothing is asked:`,
    link,
    '',
    'Afterwards the same page shows how it goes, so keep this mail and do not pass it on.',
    'If it was not you, do nothing. What was typed is deleted then.',
    '',
  ].join('\n'),
});

/** The same to the address of somebody who works here: they ask with their sign-in. */
export const askAtTheCounter = (item: string, counter: string): { subject: string; text: string } => ({
  subject: `Ask for “${item}” at the Counter`,
  text: [
    `Somebody, perhaps you, asked for “${item}” by its public link and gave this address as theirs. It is the address of somebody who works here, so`,
    'nothing was asked. Ask for it at the Counter, where your sign-in says who you are:',
    counter,
    '',
  ].join('\n'),
});
