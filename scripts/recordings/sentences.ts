/** Sentences that invented people of the clock workshop and the lamp room might say. */
export const SENTENCES: readonly string[] = [
  'The mainspring is the first thing that I let down before I touch anything else.',
  'Nobody had opened this case since the winter of the long frost.',
  'You can hear that the tick is a little heavier on one side.',
  'The oil has turned to glue, and that is why it stops at night.',
  'I keep every screw in the order in which it came out.',
  'The glass was cracked from corner to corner when it arrived.',
  'A bent tooth will catch once in every turn of the wheel.',
  'My grandmother wound this clock every Sunday after breakfast.',
  'There is a name scratched on the inside of the back plate.',
  'The pendulum hangs on a strip of steel that is thinner than paper.',
  'When the weight reaches the floor the strike train locks.',
  'I clean the pivots with a piece of soft wood and nothing else.',
  'The dial was painted twice, and the first painting was better.',
  'Hold the plate by its edges so that no finger marks are left.',
  'A good repair is one that the next person can undo.',
  'The customer told me that it had never kept time in the kitchen.',
  'We found a feather between the wheels, and nobody knows how it got there.',
  'The hands are held by a tiny pin that is easy to lose.',
  'It took me three evenings to make this one small lever.',
  'If the chain slips, the whole train runs down at once.',
  'The lamp burns behind a lens that weighs as much as a horse.',
  'On a clear night you can see our beam from the harbour wall.',
  'The supply boat comes on Thursdays, if the sea allows it.',
  'We write the weather in the log every four hours.',
  'The stairs have one hundred and ninety steps, and I know every one.',
  'A fog signal must never sound like the one of the next station.',
  'The birds come to the light in October, thousands of them.',
  'My first winter here was the one in which the roof came off.',
  'You learn to sleep through the horn, but never through the silence.',
  'The old keeper left us a shelf of books about mushrooms.',
  'Paint peels faster on the side that faces the open water.',
  'We share the cooking, and we never speak about the soup.',
  'The radio works best when the wind is from the north.',
  'Every spring we carry the stones back up to the wall.',
  'A ship without lights passed us at two in the morning.',
  'The glass has to be cleaned before the sun is down.',
  'There was a letter in a bottle, and it was a bill.',
  'I was afraid of the ladder until I had climbed it in a storm.',
  'The clock in the tower room has never been right.',
  'Seals sleep on the landing, and you have to ask them to move.',
  'Let me show you what the inside of the barrel looks like.',
  'This part is made of brass, and the one above it is made of steel.',
  'Turn the key slowly until you feel that it pushes back.',
  'The crack runs under the paint, so we cannot simply fill it.',
  'I would not use that kind of oil on anything that moves quickly.',
  'A magnet is the quickest way to find what you have dropped.',
  'The bell was cast in a village that is under a lake now.',
  'People bring me clocks that only need to stand level.',
  'The spare wheel came from a box of parts at a market.',
  'Write down the number before you take the plate off.',
  'That noise is the hammer, and it should not touch the bell at rest.',
  'We had bread for nine days and flour for three weeks more.',
  'The wind gauge broke in the same gust that took the flag.',
  'Somebody has to trim the wick, even on a holiday.',
  'Our garden is four boxes of earth behind the engine house.',
  'It is not the height that makes you dizzy, it is the turning light.',
  'The inspector comes once a year and counts the brooms.',
  'I have a drawing of every lens that was ever mounted here.',
  'A candle would be enough on most nights, but not on this coast.',
  'When the tide is out you can walk to the wreck.',
  'The gate is held by a rope that I have mended six times.',
  'He sent the movement back with a note and a jar of honey.',
  'The screws on this side turn the other way.',
  'Never wind a clock backwards unless you know its strike.',
  'The enamel is thin, so I press with a cloth and not with a tool.',
  'Underneath the dust there was a second, smaller dial.',
  'She asked me whether the moon on the dial could be made to turn.',
  'A dry pivot sings, and a worn one knocks.',
  'The case smells of tobacco, although nobody in the house smokes.',
  'We will put it on the test stand and leave it for a week.',
];

/** Beginnings of sentences that go on in ways that all of them share: lists, instructions, tables read aloud. */
export const PATTERNS: readonly { readonly line: string; readonly slots: readonly (readonly string[])[] }[] = [
  {
    line: 'The {0} wheel has {1} teeth and turns once in {2} minutes.',
    slots: [
      ['centre', 'third', 'fourth', 'escape'],
      ['eighty', 'sixty', 'seventy', 'fifteen'],
      ['sixty', 'eight', 'four', 'two'],
    ],
  },
  {
    line: 'For {0} weather hang the {1} lantern out.',
    slots: [
      ['calm', 'rough', 'misty', 'icy'],
      ['green', 'red', 'black', 'white'],
    ],
  },
  { line: 'My {0} hammer hangs by the stove.', slots: [['heavy', 'wooden', 'tiny', 'rubber']] },
  { line: 'Somebody borrowed the {0} and brought back a fish.', slots: [['ladder', 'barrow', 'kettle', 'boathook']] },
  {
    line: 'On {0} we clean the {1} and check the {2}.',
    slots: [
      ['Monday', 'Tuesday', 'Wednesday', 'Friday'],
      ['glass', 'stairs', 'engine', 'gutters'],
      ['oil', 'ropes', 'boat', 'stores'],
    ],
  },
  {
    line: 'A {0} chime tells the hour over {1} miles of sand.',
    slots: [
      ['short', 'long', 'wide', 'thin'],
      ['two', 'eight', 'thirty', 'four hundred'],
    ],
  },
  { line: 'Who taught you to mend a {0}?', slots: [['net', 'watch', 'sail', 'chimney']] },
  {
    line: 'My {0} kept the light before me, and {1} kept it well.',
    slots: [
      ['father', 'aunt', 'uncle', 'sister'],
      ['he', 'she', 'he', 'she'],
    ],
  },
  { line: 'If it is {0}, leave it alone.', slots: [['rusty', 'sticky', 'painted', 'broken']] },
  {
    line: 'The {0} tide comes at {1}, and the boat leaves an hour later.',
    slots: [
      ['morning', 'evening', 'spring', 'night'],
      ['six', 'seven', 'eleven', 'four'],
    ],
  },
  { line: 'You are now in the {0} room.', slots: [['lamp', 'engine', 'signal', 'store']] },
  { line: 'I will not sell the {0} clock, and I will not sell its key.', slots: [['blue', 'tall', 'French', 'little']] },
];

/** Lines that come again as they are, with something else between: a refrain, an answer, a rule read out. */
export const REFRAINS: readonly string[] = [
  'That is the rule of the house.',
  'Everything on this coast is borrowed.',
  'And then you do it all again the next day.',
  'And nobody thought to ask the gulls.',
  'The light must not go out.',
  'So we wait.',
];

/** A whole sentence, and how somebody goes on from it who says it once more with a reason or an exception: both were meant. */
export const EXTENDED: readonly (readonly [whole: string, onward: string])[] = [
  ['You cannot leave it on.', 'when nobody is in the tower to look after it'],
  ['I would not let them in.', 'unless one of them had a letter from the harbour'],
  ['That is what it is for.', 'although most people hang their coats on it'],
  ['You have to lean on it.', 'until you hear the catch go over'],
  ['We still live in it.', 'in the winter when the road is shut'],
  ['There is nothing in it.', 'but a key and two dead moths'],
  ['I never saw what it was on.', 'because the fog had come down by then'],
  ['The old lamp is the one I look to.', 'when the new one has one of its days'],
  ['This is the bench we work on.', 'whenever the big table is taken'],
  ['Nobody knows who it belongs to.', 'since the name was filed off long ago'],
  ['That is all you get for it.', 'if you sell it without the case'],
  ['I could hear what she was up to.', 'from the bottom of the stairs'],
  ['The cover stays on.', 'while you turn the key for the first time'],
  ['He let the weight down.', 'a hand at a time so that nothing would swing'],
  ['The spring is cracked.', 'on the inside where you would never see it'],
  ['We keep the door shut.', 'as long as the wind is from the west'],
  ['She wrote it all down.', 'in a book that nobody could read afterwards'],
  ['The bell is loud.', 'when you stand right underneath it'],
  ['My aunt wound this clock.', 'every evening until she was ninety'],
  ['The oil has to be thin.', 'for the small wheels at least'],
  ['You can see the island.', 'on a day when there has been rain'],
  ['The ferry was late.', 'by more than an hour as it turned out'],
  ['I polished the glass.', 'with nothing but vinegar and paper'],
  ['The hand was bent.', 'just enough to catch on the other one'],
];

/** What is said to whoever cuts, before another try. */
export const CUES: readonly string[] = [
  'sorry',
  'sorry, once more',
  'no, wait',
  'hang on, again',
  'okay, that line once more',
  'take two',
  'oh no, sorry, from the top',
];

/** Short asides between two lines that are no cue. */
export const ASIDES: readonly string[] = ['Mind the step.', 'Not yet.', 'Warmer today.', 'That was the wind.'];

/** Words that may be said for one another when a line is said again. */
export const VARIANTS: Readonly<Record<string, string>> = {
  the: 'a',
  that: 'which',
  and: 'then',
  until: 'till',
  little: 'bit',
  before: 'until',
  this: 'that',
  we: 'I',
};
