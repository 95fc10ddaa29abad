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
    'OSPRY Osprey Lantern|SEXTN Sextant Optics|BAROM Barometer House|TIDEG Tidegauge Systems|LEADL Leadline Sounding|ASTRB Astrolabe Works|COMPS Compass Rose Devices|FATHM Fathom Sensors|SPYGL Spyglass Imaging|CHRNO Chronometer Lane|PLUMB Plumbline Metrics|HYGRO Hygrometer & Daughters',
  Staples:
    'SAMFI Samphire Foods|HERRG Herring Quay|COCKL Cockle Row Grocers|BRINE Brine & Barrel|LAVER Laverbread Mills|WHELK Whelk Street Markets|DULSE Dulse Pantry|SALTM Saltmarsh Dairies|KIPPR Kipper Brothers|ORACH Orache Farms|SPRAT Sprat Tin Works|CHNDL Chandlers Larder|MUSSL Musselbed Provisions|SEAKL Seakale Growers',
  Industrials:
    'MUDLK Mudlark Salvage|CRANE Cranewharf Engineering|ANVLP Anvilpoint Forge|BOLLD Bollard Castings|DREDG Dredger Union|GANTR Gantry Lift|CAPST Capstan Machines|RIVTR Riveter & Mate|PILED Piledriver Civil|GROYN Groyne Builders|SLIPW Slipway Yards|WINCH Winch Hill|CAISN Caisson Foundations|OAKUM Oakum Sealing|STAYS Stays & Shrouds',
  Energy:
    'KELPR Kelprise Energy|TIDML Tidemill Power|EBBFL Ebbflow Turbines|PEATB Peatbank Fuels|SWELL Swellhead Wave|GALEF Galeforce Wind|COALH Coalhole Bunkering|FLARE Flarestack Gas|BECON Beacon Hill Oil|SUNDG Sundog Solar|NEAPT Neaptide Storage|SPRNG Springtide Generation',
  Transport:
    'CAUSW Causeway Rail|PILOT Pilot Cutter Logistics|FERYM Ferryman Lines|LIGHT Lightership Freight|BARGE Bargeman Haulage|FAIRW Fairway Shipping|PONTN Pontoon Air|PACKT Packet Boat Post|TOWPA Towpath Cycles|TRAMR Tramroad Transit|DHOWS Dhow & Sons Charter|BUOYS Buoyline Navigation|WHERR Wherry Couriers|DROVR Droveway Trucks',
  Health:
    'REEDB Reedbed Biologics|SPHAG Sphagnum Dressings|COMFR Comfrey Labs|LEECH Leechbook Diagnostics|WILLW Willowbark Remedies|EELGR Eelgrass Genomics|IODIN Iodine Bay|SEAHL Seaholly Therapeutics|CORMT Cormorant Surgical|LIMPT Limpet Adhesives|MARSH Marshmallow Root|SCURV Scurvygrass Nutrition|OYSTR Oystershell Dental|VALER Valerian Sleep',
  Technology:
    'TERNX Ternex Semiconductors|GANET Gannet Networks|DRIFT Driftline Software|SANDP Sandpiper Circuits|KNOTT Knottwork Code|PUFFN Puffin Stack|RIGGR Riggercloud|SEMAP Semaphore Messaging|HALYD Halyard Security|DUNLN Dunlin Robotics|WAKEL Wakeline Data|PLOVR Plover Interfaces|BUNTG Bunting Displays|CURLT Curlet Memory|SONAR Sonarpath Audio|LOGBK Logbook Analytics|SHOAL Shoalmap|MORSE Morsekey Telecom',
  Utilities:
    'SLUIC Sluice and Weir|LOCKG Lockgate Water|CULVR Culvert Drainage|AQUED Aqueduct North|LAMPL Lamplighter Electric|MAINS Harbour Mains|CISTN Cistern Trust|RESVR Reservoir Holdings|OUTFL Outfall Treatment|GASOM Gasometer Row',
  Consumer:
    'CURLW Curlew Home|OILSK Oilskin Outfitters|GUERN Guernsey Knit|WELLI Wellington Boot|DECKC Deckchair Leisure|PIERS Pierhead Amusements|KITER Kitemaker Toys|BATHG Bathing Hut Resorts|SHANT Shanty Records|ROWAN Rowanberry Paint|REGAT Regatta Games|TEALH Tealhouse|LOBST Lobsterpot Inns|PEBBL Pebble Jewellers|DRIFW Driftwood Furniture|SCULL Scull & Oar|HAMMK Hammock Hotels',
  Materials:
    'BARNC Barnacle Coatings|SHNGL Shingle Aggregates|CHALK Chalkface Lime|FLINT Flintbed Glass|ROPEW Ropewalk Fibres|SALTN Saltern Chemicals|CLAYP Claypit Ceramics|TARPT Tarpit Resins|IRONB Ironbark Timber|SANDB Sandbar Silica|PITCH Pitchpine Lumber|COPPR Copperas Works|MARLS Marlstone|THATC Thatcher Reed',
  Financials:
    'EBBTD Ebbtide Insurance|HARBK Harbour Bank|TILLR Tiller Savings|ANCHR Anchorage Trust|WRECK Wreckers Reinsurance|LEDGE Ledgerman Audit|STRBX Strongbox Custody|TALLY Tallystick Payments|KEELS Keelson Capital|BALLS Ballast Asset Management|COVEM Covemouth Mortgage|MOORG Mooring Credit|FLOTS Flotsam Recovery|PURSE Purser Leasing|SCHOL Scholars Quay Annuities',
}

/** Companies of the northern venue. */
const NORTHERN: Record<string, string> = {
  Staples:
    'RYEKO Ryekiln Bread|LINGO Lingonberry Press|CLOUD Cloudberry Dairies|SILLI Sillgrund Fisheries|BARKO Barkmeal Mills',
  Industrials:
    'ICEBR Icebrace Hulls|SAUNA Stovestone Works|TIMBO Timberbooms|ANKAR Ankarholm Foundry|PULPO Pulpwharf Paper',
  Energy: 'PEATO Peatmoor Heat|RAPID Rapids Power|NORDV Northvane Wind|BRIKO Briquette Yard',
  Technology:
    'SISUX Stillwater Chips|RUNEX Runestone Software|AURRA Aurora Optics|KELDO Keldwell Cloud|MICRO Microfjord Radio',
  Financials: 'SKARB Skargard Bank|HOLMF Holm Fire Insurance|VIKEN Vikenhaven Trust',
  Health: 'BIRCH Birchsap Pharma|JUNIP Juniper Care|MOSSO Mossbed Biotech',
  Consumer: 'WOOLO Woolmark Harbour|SKIFF Skiff & Oars Leisure|REIND Reindeer Knit',
}

/** Funds: baskets that move calmly with the market or with a sector. */
const FUNDS =
  'WIDEX Wide Estuary Fund|SMALX Small Craft Fund|DIVIX Harbour Dividend Fund|TECHX Lantern Technology Fund|ENRGX Tides Energy Fund|CALMX Still Water Low Volatility|VALUX Undertow Value Fund|GROWX Fairwind Growth Fund|MATLX Quarry Materials Fund|HLTHX Sickbay Health Fund'

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

const HEADS =
  'Amber Ash Bay Beacon Birch Bramble Brook Cairn Cedar Chalk Cliff Clover Coral Cove Creek Crown Dale Delta Dune East Elder Elm Ember Fen Fern Fjord Flint Ford Gale Glen Grove Gull Harbour Hazel Heath Heron Hollow Iron Isle Ivy Kelp Kestrel Lark Linden Loch Maple Marsh Mead Mill Moor Moss North Oak Otter Pearl Pike Pine Quarry Raven Reed Ridge River Rook Rose Sand Sedge Shore Slate South Stone Storm Swan Thorn Tide Vale Weir West Willow Wren Yarrow'.split(
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
    const name = round === 0 ? `${head} ${tail}` : `${head} ${HEADS[(k + 7 * round) % HEADS.length]} ${tail}`
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
    pick('AEIOUX', 31_212),
  ].join('')
}
