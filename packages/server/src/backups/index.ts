/** Cards verified into several places. */
export {
  arrivalRule,
  cardArrived,
  firstBackup,
  keepIntakes,
  listBackups,
  listIntakes,
  listRolls,
  onOneDisk,
  runBackup,
  runVerify,
  setArrivalRule,
  startTakingIn,
  startVerifying,
  tellUnsafe,
  toldUnsafe,
  unsafeFolders,
} from './service.ts'
