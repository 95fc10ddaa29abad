import { BRACKWATER } from '@/core/market/venue'
import { type Security } from '@/core/market/security'
import { seedOf } from './random'

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

/** Funds: baskets that move calmly with the market or with a sector. */
const FUNDS =
  'WIDEX Wide Estuary Fund|SMALX Small Craft Fund|DIVIX Harbour Dividend Fund|TECHX Lantern Technology Fund|ENRGX Tides Energy Fund|CALMX Still Water Low Volatility|VALUX Undertow Value Fund|GROWX Fairwind Growth Fund|MATLX Quarry Materials Fund|HLTHX Sickbay Health Fund'

const split = (list: string): [string, string][] =>
  list.split('|').map((entry) => [entry.slice(0, entry.indexOf(' ')), entry.slice(entry.indexOf(' ') + 1)])

/** A number between two bounds, fixed by the symbol and what it is for. */
function fixed(symbol: string, what: string, low: number, high: number): number {
  return low + ((high - low) * (seedOf(symbol, what) % 100_000)) / 100_000
}

function listed(symbol: string, name: string, sector: string, kind: Listed['kind']): Listed {
  const fund = kind !== 'Stock'
  const volumeScale = fixed(symbol, 'volume', 11.4, 15.6)
  return {
    symbol,
    name,
    kind,
    sector,
    venue: BRACKWATER.mic,
    currency: BRACKWATER.currency,
    lot: 1,
    increments: [...BRACKWATER.increments],
    tradable: kind !== 'Index',
    firstPrice: Math.round(100 * Math.exp(fixed(symbol, 'price', Math.log(8), Math.log(180)))) / 100,
    beta: kind === 'Index' ? 1 : fund ? fixed(symbol, 'beta', 0.6, 1.1) : fixed(symbol, 'beta', 0.4, 1.7),
    ownVolatility: kind === 'Index' ? 0 : fund ? 0.003 : fixed(symbol, 'own', 0.009, 0.024),
    usualVolume: Math.round(Math.exp(volumeScale)),
  }
}

/** The index of the market, which follows the common factor alone. */
export const INDEX_SYMBOL = 'BWALL'

/** Everything that is listed, in the order of the symbols. */
export const LISTING: readonly Listed[] = [
  ...Object.entries(COMPANIES).flatMap(([sector, list]) =>
    split(list).map(([symbol, name]) => listed(symbol, name, sector, 'Stock')),
  ),
  ...split(FUNDS).map(([symbol, name]) => listed(symbol, name, 'Funds', 'Fund')),
  { ...listed(INDEX_SYMBOL, 'Brackwater All-Share', 'Index', 'Index'), firstPrice: 1000 },
].sort((a, b) => (a.symbol < b.symbol ? -1 : 1))
