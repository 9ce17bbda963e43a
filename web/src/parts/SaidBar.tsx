import Button from "@mui/material/Button";
import Snackbar from "@mui/material/Snackbar";

/** What was just done, at the foot of the page, with the way back. */
export default function SaidBar({ text, onUndo, onClose }: { text: string; onUndo?: () => void; onClose: () => void }) {
  return (
    <Snackbar
      open
      autoHideDuration={onUndo ? 90000 : 8000}
      onClose={(_, why) => why !== "clickaway" && onClose()}
      message={text}
      anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
      sx={{ bottom: { xs: 92 } }}
      action={
        onUndo && (
          <Button color="inherit" onClick={onUndo}>
            Undo
          </Button>
        )
      }
    />
  );
}
