import { baseLanguage } from '../../detect/words/lexicon.ts';
import { plainWord } from '../../transcript/plainWord.ts';

/** Words that lean on what follows them: articles, possessives, prepositions, conjunctions, auxiliaries. */
const LEANING: Readonly<Record<string, string>> = {
  en: `a an the my your his her its our their this that these those some any no every each which whose of to in on at by for with from as
    into onto about than over under through between after before and or but nor if because not very so too i we you he she they it's
    i'm we're you're he's she's they're is are was were be been has have had do does did will would can could should may might must`,
  de: `der die das den dem des ein eine einen einem einer eines kein keine keinen keinem keiner mein meine meinen meinem meiner dein deine
    sein seine seinen seinem seiner ihr ihre ihren ihrem ihrer unser unsere unseren dieser diese dieses diesen diesem jeder jede jedes in im
    an am auf aus bei mit nach von vom vor zu zum zur für durch über unter zwischen um und oder aber denn dass weil wenn nicht sehr ich wir
    er sie es ist sind war hat haben`,
  fr: `le la les l' un une des du de d' au aux mon ma mes ton ta tes son sa ses notre nos votre vos leur leurs ce cet cette ces chaque dans
    en sur sous par pour avec sans chez vers entre et ou mais que qui si ne très je tu il elle on nous vous ils elles est sont a ont`,
  es: `el la los las un una unos unas lo al del de mi mis tu tus su sus nuestro nuestra este esta estos estas ese esa cada en a con por para
    sin sobre entre y o pero que si no muy es son ha han`,
  it: `il lo la i gli le l' un uno una dei degli delle del dello della dell' al allo alla ai agli alle nel nella sul sulla mio mia tuo tua
    suo sua questo questa ogni di a da in con su per tra fra e o ma che se non molto è sono ha`,
  pt: `o a os as um uma uns umas do da dos das no na nos nas ao à meu minha seu sua este esta esse essa cada de em com por para sem sobre
    entre e ou mas que se não muito é são`,
  nl: `de het een mijn jouw zijn haar ons onze hun dit dat deze die elke in op aan bij met van voor uit over onder door naar tussen en of
    maar want dat als niet heel ik wij we je hij zij ze is zijn was heeft`,
};

/** The leaning words of a language; of one that is not known, none. */
export const leaningWords = (language: string): ReadonlySet<string> => plainWords(LEANING[baseLanguage(language)] ?? '');

/** Articles, and what stands in their place, of all these languages: no break ever parts one from its noun. */
export const articles = (): ReadonlySet<string> => plainWords(ARTICLES);

const plainWords = (list: string): ReadonlySet<string> => new Set(list.split(/\s+/).map(plainWord).filter(Boolean));

const ARTICLES = `a an the my your his her its our their this that these those der die das den dem des ein eine einen einem einer eines le la
  les un une des du el los las il lo gli uno una os as um uma de het een`;
