import { BRACKWATER, SKERRY, type Venue } from '@/core/market/venue'
import { type Security } from '@/core/market/security'
import { seedOf } from '@/core/market/chance'

/** What the price process knows of a security beyond what it shows. */
export interface Listed extends Security {
  /** Price on the first day, in currency units. */
  firstPrice: number
  /** How strongly it goes with the market. */
  beta: number
  /** Volatility of its own, a day. */
  ownVolatility: number
  /** Usual shares a session. */
  usualVolume: number
}

/** Made-up companies of the estuary, by sector: "symbol name". */
const COMPANIES: Record<string, string> = {
  Instruments:
    'OSPRY Osprey Lantern|SEXTN Sextant Optics|BAROM Barometer House|TIDEG Tidegauge Systems|LEADL Leadline Sounding|ASTRB Astrolabe Works|WINDR Windrose Devices|BATHY Bathyline Sensors|SPYGL Spyglass Imaging|CHRNO Chronometer Lane|PLUMB Plumbline Metrics|HYGRO Hygrometer & Daughters',
  Staples:
    'SAMFI Samphire Foods|HERRG Herring Quay|COCKL Cockle Row Grocers|BRINE Brine & Barrel|LAVER Laverbread Mills|WHELK Whelk Street Markets|DULSE Dulse Pantry|SALTM Saltmarsh Dairies|KIPPR Kipper Brothers|ORACH Orache Farms|SPRAT Sprat Tin Works|CHNDL Chandlers Larder|MUSSL Musselbed Provisions|SEAKL Seakale Growers',
  Industrials:
    'MUDLK Mudlark Salvage|DERRK Derrickwharf Engineering|ANVLP Anvilpoint Forge|BOLLD Bollard Castings|DREDG Dredger Union|GANTR Gantry Lift|CAPST Capstan Machines|RIVTR Riveter & Mate|PILED Piledriver Civil|GROYN Groyne Builders|SLIPW Slipway Yards|WINCH Winch Hill|CAISN Caisson Foundations|OAKUM Oakum Sealing|STAYS Stays & Shrouds',
  Energy:
    'KELPR Kelprise Energy|TIDML Tidemill Power|EBBFL Ebbflow Turbines|PEATB Peatbank Fuels|SWELL Swellhead Wave|GALEF Galeforce Wind|COALH Coalhole Bunkering|FLARE Flarestack Gas|LAMPB Lampblack Oil|SUNDG Sundog Solar|NEAPT Neaptide Storage|SPRNG Springtide Generation',
  Transport:
    'CAUSW Causeway Rail|CUTTR Pilotcutter Logistics|FERYM Ferryman Lines|LGHTR Lighterman Freight|BARGE Bargeman Haulage|FAIRW Fairchannel Shipping|PONTN Pontoon Air|MAILB Mailboat Post|TOWPA Towpath Cycles|TRAMR Tramroad Transit|DHOWS Dhow & Sons Charter|BUOYS Buoyline Navigation|WHERR Wherry Couriers|DROVR Droveway Trucks',
  Health:
    'REEDB Reedbed Biologics|SPHAG Sphagnum Dressings|COMFR Comfrey Labs|LEECH Leechbook Diagnostics|WILLW Willowbark Remedies|EELGR Eelgrass Genomics|IODIN Iodine Bay|SEAHL Seaholly Therapeutics|CORMT Cormorant Surgical|LIMPT Limpet Adhesives|MALLW Mallowroot|SCURV Scurvygrass Nutrition|OYSTR Oystershell Dental|VALER Valerian Sleep',
  Technology:
    'TERNW Ternwing Semiconductors|GANET Gannetcliff Lasers|DRIFL Driftlog Software|SANDR Sanderling Circuits|KNOTW Knotwork Code|PUFFN Puffin Stack|RIGGR Riggercloud|FLAGH Flaghoist Messaging|HALYD Halyard Security|DUNLN Dunlin Robotics|WAKEL Wakeline Data|PLOVR Plover Interfaces|BUNTG Bunting Displays|CURLT Curlet Memory|SONAR Sonarpath Audio|LOGBK Logbook Analytics|SHOAL Shoalmap|MORSE Morsekey Telecom',
  Utilities:
    'SLUIC Sluice and Weir|LOCKG Lockgate Water|CULVR Culvert Drainage|AQUED Aqueduct North|LAMPL Lamplighter Electric|MAINS Harbour Mains|CISTN Cistern Trust|HEADP Headpond Holdings|OUTFL Outfall Treatment|GASOM Gasometer Row',
  Consumer:
    'CURLW Curlew Home|OILSK Oilskin Outfitters|GANSY Gansey Knit|GUMBT Gumboot & Sole|DECKC Deckchair Leisure|PIERS Pierhead Amusements|KITER Kitemaker Toys|BATHG Bathing Hut Resorts|SHANT Shanty Records|ROWBR Rowanberry Paint|ROWLK Rowlock Games|TEALH Tealhouse|LOBST Lobsterpot Inns|PEBLW Pebblewash Jewellers|DRIFW Driftwood Furniture|SCULL Scull & Oar|HAMMK Hammock Hotels',
  Materials:
    'BARNC Barnacle Coatings|SHNGL Shingle Aggregates|CHALK Chalkface Lime|FLNTB Flintbed Glass|ROPEW Ropewalk Fibres|SALTN Saltern Chemicals|CLAYP Claypit Ceramics|TARPT Tarpit Resins|IRONB Ironbark Timber|SANDB Sandbar Silica|PTCHP Pitchpine Lumber|COPPR Copperas Works|MARLS Marlstone|THATC Thatchreed',
  Financials:
    'EBBTD Ebbtide Insurance|HARBK Harbour Bank|TILLR Tiller Savings|ANCHR Anchorhold Trust|WRECK Wreckers Reinsurance|LEDGE Ledgerman Audit|STRGB Strongbox Custody|TALST Tallystick Payments|KEELS Keelson Capital|BALST Ballast Asset Management|COVEM Covemouth Mortgage|MOORG Mooring Credit|FLOTS Flotsam Recovery|PURSE Purser Leasing|SCHOL Scholars Quay Annuities',
}

/** Companies of the northern venue. */
const NORTHERN: Record<string, string> = {
  Staples:
    'RYEKO Ryekiln Bread|LINBR Lingonberry Press|BILBR Bilberry Dairies|SILLI Sillgrund Fisheries|BRKML Barkmeal Mills',
  Industrials:
    'ICEBR Icebrace Hulls|SAUNA Stovestone Works|TIMBO Timberbooms|ANKAR Ankarholm Foundry|PULPO Pulpwharf Paper',
  Energy: 'PEATO Peatmoor Heat|RAPDS Rapids Power|NORDV Northvane Wind|BRIKO Briquette Yard',
  Technology:
    'SUVAN Suvanto Chips|RUNST Runestone Software|REVON Revontuli Optics|KELDO Keldwell Storage|MFJRD Microfjord Radio',
  Financials: 'SKARB Skargard Bank|HOLMF Holm Fire Insurance|VIKEN Vikenhaven Trust',
  Health: 'BRSAP Birchsap Pharma|JUNIB Juniberry Care|MOSSO Mossbed Biotech',
  Consumer: 'WOOLY Woolyard Harbour|SKIFF Skiff & Oars Leisure|REIND Reindeer Knit',
}

/** Funds: baskets that move calmly with the market or with a sector. */
const FUNDS =
  'WIDEF Wide Estuary Fund|SMALF Small Craft Fund|DIVIF Harbour Dividend Fund|TECHF Lantern Technology Fund|ENRGF Tides Energy Fund|CALMF Still Water Low Volatility|VALUF Undertow Value Fund|GROWF Fairwind Growth Fund|MATLF Quarry Materials Fund|HLTHF Sickbay Health Fund'

const split = (list: string): [string, string][] =>
  list.split('|').map((entry) => [entry.slice(0, entry.indexOf(' ')), entry.slice(entry.indexOf(' ') + 1)])

/** A number between two bounds, fixed by the symbol and what it is for. */
function fixed(symbol: string, what: string, low: number, high: number): number {
  return low + ((high - low) * (seedOf(symbol, what) % 100_000)) / 100_000
}

function listed(venue: Venue, symbol: string, name: string, sector: string, kind: Listed['kind']): Listed {
  const fund = kind !== 'Stock'
  const volumeScale = fixed(symbol, 'volume', 11.4, 15.6)
  const countries = COUNTRIES[venue.mic]
  return {
    symbol,
    name,
    kind,
    sector,
    venue: venue.mic,
    country: countries[seedOf(symbol, 'country') % countries.length],
    currency: venue.currency,
    lot: venue.lot,
    increments: [...venue.increments],
    indices: [],
    orderable: kind !== 'Index',
    firstPrice: Math.round(100 * Math.exp(fixed(symbol, 'price', Math.log(8), Math.log(180)))) / 100,
    beta: kind === 'Index' ? 1 : fund ? fixed(symbol, 'beta', 0.6, 1.1) : fixed(symbol, 'beta', 0.4, 1.7),
    ownVolatility: kind === 'Index' ? 0 : fund ? 0.003 : fixed(symbol, 'own', 0.009, 0.024),
    usualVolume: Math.round(Math.exp(volumeScale)),
  }
}

/** Where companies of a venue have their seat; most at home. */
const COUNTRIES: Record<string, string[]> = {
  [BRACKWATER.mic]: ['CA', 'CA', 'CA', 'CA', 'US', 'IE'],
  [SKERRY.mic]: ['FI', 'FI', 'EE', 'SE'],
}

/** The index of each venue, which follows its common factor alone. */
export const INDEX_OF: Record<string, string> = { [BRACKWATER.mic]: 'BWALL', [SKERRY.mic]: 'SKALL' }

/** The index of the home market. */
export const INDEX_SYMBOL = INDEX_OF[BRACKWATER.mic]

const stocks = (venue: Venue, companies: Record<string, string>): Listed[] =>
  Object.entries(companies).flatMap(([sector, list]) =>
    split(list).map(([symbol, name]) => listed(venue, symbol, name, sector, 'Stock')),
  )

/** The index of the most traded of each venue, and how many they are. */
const MOST_TRADED: Record<string, { name: string; count: number }> = {
  [BRACKWATER.mic]: { name: 'Brackwater Forty', count: 40 },
  [SKERRY.mic]: { name: 'Skerry Ten', count: 10 },
}

/** The securities of a venue in the order of their symbols, each with the indices that it is a member of. */
function withIndices(venue: Venue, all: readonly Listed[]): Listed[] {
  const { name, count } = MOST_TRADED[venue.mic]
  const allShare = all.find((l) => l.symbol === INDEX_OF[venue.mic])?.name
  const traded = (l: Listed) => l.usualVolume * l.firstPrice
  const companies = all.filter((l) => l.kind === 'Stock').sort((a, b) => traded(b) - traded(a))
  const most = new Set(companies.slice(0, count).map((l) => l.symbol))
  return all
    .map((l) => ({
      ...l,
      indices: l.kind !== 'Stock' || !allShare ? [] : most.has(l.symbol) ? [allShare, name] : [allShare],
    }))
    .sort(bySymbol)
}

const bySymbol = (a: Listed, b: Listed): number => (a.symbol < b.symbol ? -1 : 1)

/** Everything that is listed at Brackwater, in the order of the symbols. */
export const LISTING: readonly Listed[] = withIndices(BRACKWATER, [
  ...stocks(BRACKWATER, COMPANIES),
  ...split(FUNDS).map(([symbol, name]) => listed(BRACKWATER, symbol, name, 'Funds', 'Fund')),
  {
    ...listed(BRACKWATER, INDEX_SYMBOL, 'Brackwater All-Share', 'Index', 'Index'),
    firstPrice: 1000,
  },
])

/** Everything that is listed at Skerry. */
export const NORTHERN_LISTING: readonly Listed[] = withIndices(SKERRY, [
  ...stocks(SKERRY, NORTHERN),
  { ...listed(SKERRY, INDEX_OF[SKERRY.mic], 'Skerry All-Share', 'Index', 'Index'), firstPrice: 4000 },
])

/**
 * Made-up villages of the estuary, of words for mud, weather and birds: beside any of the tails below they name no
 * company that there is.
 */
const HEADS =
  'Wrackholm Eelbank Siltwick Reedholm Sedgeby Marlness Mudwick Gullness Ternholt Wadeby Brinewick Kelpholm Dulsewick Limpness Oarby Thwartby Keelwick Sluiceby Weirholm Culverness Groynby Spitwick Shoalby Barness Ebbwick Neapholm Fogby Mistholm Haarwick Galeby Squallness Lullwick Calmby Driftholm Flotwick Spumeby Foamness Ripplewick Eddyholm Swirlby Dunlinby Whimbrelwick Avocetholm Ploverness Knotby Godwitholm Redshankby Stintwick Smewholm Pochardby Scoterness Tealwick Wigeonby Pintailholm Garganeyby Bitternwick Railholm Crakeby Cootness Grebewick Diverholm Skuaby Petrelness Fulmarwick Shagholm Aukby Puffinness Samphirewick Cockleby Whelkness Spratholm Herringby'.split(
    ' ',
  )
const TAILS =
  'Works Foods Lines Power Optics Labs Trust Credit Mills Fibre Metals Timber Freight Rail Media Games Textiles Tools Motors Marine Water Gas Solar Dental Care Data Radio Glass Paper Paints Seeds Farms Dairies Bakers Brewers Hotels Parks Homes Bricks Cement'.split(
    ' ',
  )

/**
 * More made-up companies, `count` in all with those that there are; symbols of five letters, none twice, also not
 * one that is listed elsewhere.
 */
export function grownListing(
  venue: Venue,
  known: readonly Listed[],
  count: number,
  elsewhere: readonly Listed[],
): readonly Listed[] {
  const taken = new Set([...LISTING, ...NORTHERN_LISTING, ...elsewhere].map((l) => l.symbol))
  const sectors = [...new Set(known.filter((l) => l.kind === 'Stock').map((l) => l.sector))]
  const out = [...known]
  for (let k = elsewhere.length; out.length < count; k++) {
    const seed = seedOf(venue.mic, 'grown', k)
    let symbol = ''
    for (let turn = 0; symbol === '' || taken.has(symbol); turn++) symbol = lettersOf(seed + turn * 7_919)
    taken.add(symbol)
    const head = HEADS[k % HEADS.length]
    const tail = TAILS[Math.floor(k / HEADS.length) % TAILS.length]
    const round = Math.floor(k / (HEADS.length * TAILS.length))
    const name =
      round === 0 ? `${head} ${tail}` : `${head} & ${HEADS[(k + 7 * round) % HEADS.length]} ${tail}`
    out.push(listed(venue, symbol, name, sectors[seed % sectors.length], 'Stock'))
  }
  return withIndices(venue, out)
}

/** Five letters of a number, the second a vowel so that they can be said. */
function lettersOf(seed: number): string {
  const pick = (letters: string, by: number) => letters[Math.floor(seed / by) % letters.length]
  return [
    pick('BCDFGHJKLMNPRSTVWZ', 1),
    pick('AEIOUY', 18),
    pick('BCDFGHKLMNPRSTVXZ', 108),
    pick('BCDFGHKLMNPRSTVXZ', 1_836),
    // Five letters that end in X are a form of real funds.
    pick('AEIOU', 31_212),
  ].join('')
}
