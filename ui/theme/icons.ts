// Material Design Icons as components: the interface takes its icons from here.
import { createElement } from 'react';
import { createSvgIcon } from '@mui/material/utils';
import {
  mdiAdjust,
  mdiAlertCircleOutline,
  mdiAlertOutline,
  mdiArrowDown,
  mdiArrowUp,
  mdiBrush,
  mdiCheck,
  mdiChevronDown,
  mdiChevronLeft,
  mdiChevronRight,
  mdiCircleHalfFull,
  mdiClose,
  mdiCropLandscape,
  mdiCubeOutline,
  mdiDeleteOutline,
  mdiDotsVertical,
  mdiEarth,
  mdiEyeOffOutline,
  mdiEyeOutline,
  mdiEyedropper,
  mdiForumOutline,
  mdiGrain,
  mdiGrid,
  mdiInformationOutline,
  mdiLink,
  mdiLinkOff,
  mdiLockOpenVariantOutline,
  mdiLockOutline,
  mdiMapMarkerOutline,
  mdiMemory,
  mdiPause,
  mdiPlay,
  mdiPlus,
  mdiRedo,
  mdiRepeat,
  mdiRestart,
  mdiShapeOutline,
  mdiSitemapOutline,
  mdiSkipNext,
  mdiSkipPrevious,
  mdiTrayArrowUp,
  mdiUndo,
  mdiUnfoldLessHorizontal,
  mdiUnfoldMoreHorizontal,
  mdiWhiteBalanceSunny,
} from '@mdi/js';

const icon = (d: string, name: string) => createSvgIcon(createElement('path', { d }), name);

export const AccountTreeIcon = icon(mdiSitemapOutline, 'AccountTree');
export const AddIcon = icon(mdiPlus, 'Add');
export const AdjustIcon = icon(mdiAdjust, 'Adjust');
export const ArrowDownwardIcon = icon(mdiArrowDown, 'ArrowDownward');
export const ArrowUpwardIcon = icon(mdiArrowUp, 'ArrowUpward');
export const BrushIcon = icon(mdiBrush, 'Brush');
export const CategoryIcon = icon(mdiShapeOutline, 'Category');
export const CheckIcon = icon(mdiCheck, 'Check');
export const CloseIcon = icon(mdiClose, 'Close');
export const ColorizeIcon = icon(mdiEyedropper, 'Colorize');
export const CropLandscapeIcon = icon(mdiCropLandscape, 'CropLandscape');
export const DeleteOutlineIcon = icon(mdiDeleteOutline, 'DeleteOutline');
export const ErrorOutlineIcon = icon(mdiAlertCircleOutline, 'ErrorOutline');
export const ExpandMoreIcon = icon(mdiChevronDown, 'ExpandMore');
export const FileUploadIcon = icon(mdiTrayArrowUp, 'FileUpload');
export const ForumOutlinedIcon = icon(mdiForumOutline, 'ForumOutlined');
export const GrainIcon = icon(mdiGrain, 'Grain');
export const GridOnIcon = icon(mdiGrid, 'GridOn');
export const InfoOutlinedIcon = icon(mdiInformationOutline, 'InfoOutlined');
export const LightModeIcon = icon(mdiWhiteBalanceSunny, 'LightMode');
export const LinkIcon = icon(mdiLink, 'Link');
export const LinkOffIcon = icon(mdiLinkOff, 'LinkOff');
export const LockIcon = icon(mdiLockOutline, 'Lock');
export const LockOpenIcon = icon(mdiLockOpenVariantOutline, 'LockOpen');
export const LoopIcon = icon(mdiRepeat, 'Loop');
export const MemoryIcon = icon(mdiMemory, 'Memory');
export const MoreVertIcon = icon(mdiDotsVertical, 'MoreVert');
export const NavigateBeforeIcon = icon(mdiChevronLeft, 'NavigateBefore');
export const NavigateNextIcon = icon(mdiChevronRight, 'NavigateNext');
export const PauseIcon = icon(mdiPause, 'Pause');
export const PlaceIcon = icon(mdiMapMarkerOutline, 'Place');
export const PlayArrowIcon = icon(mdiPlay, 'PlayArrow');
export const PublicIcon = icon(mdiEarth, 'Public');
export const RedoIcon = icon(mdiRedo, 'Redo');
export const RestartAltIcon = icon(mdiRestart, 'RestartAlt');
export const SkipNextIcon = icon(mdiSkipNext, 'SkipNext');
export const SkipPreviousIcon = icon(mdiSkipPrevious, 'SkipPrevious');
export const TonalityIcon = icon(mdiCircleHalfFull, 'Tonality');
export const UndoIcon = icon(mdiUndo, 'Undo');
export const UnfoldLessIcon = icon(mdiUnfoldLessHorizontal, 'UnfoldLess');
export const UnfoldMoreIcon = icon(mdiUnfoldMoreHorizontal, 'UnfoldMore');
export const ViewInArIcon = icon(mdiCubeOutline, 'ViewInAr');
export const VisibilityIcon = icon(mdiEyeOutline, 'Visibility');
export const VisibilityOffIcon = icon(mdiEyeOffOutline, 'VisibilityOff');
export const WarningAmberIcon = icon(mdiAlertOutline, 'WarningAmber');
