import { useRef, useState } from "react";

/** One player for several sounds: tapped again it stops, another replaces it. */
export function usePlayer() {
  const player = useRef<HTMLAudioElement>(null);
  const [playing, setPlaying] = useState<string | null>(null);
  const [failed, setFailed] = useState(false);
  const stopped = () => {
    setPlaying(null);
  };
  const play = (key: string, url: string) => {
    const audio = player.current;
    if (!audio) return;
    if (playing === key) {
      audio.pause();
      stopped();
      return;
    }
    setFailed(false);
    setPlaying(key);
    audio.src = url;
    audio.play().catch(() => {
      stopped();
      setFailed(true);
    });
  };
  return { player, playing, failed, play, stopped };
}
