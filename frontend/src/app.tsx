import { Route, Routes } from "react-router";

import { Board } from "./stations/board/board";
import { Call } from "./stations/call/call";
import { Hands } from "./stations/hands/hands";
import { JobFrame } from "./stations/job-frame";
import { NewJob } from "./stations/new-job/new-job";
import { Spin } from "./stations/spin/spin";
import { Story } from "./stations/story/story";
import { TopBar } from "./ui/top-bar";
import { Trouble } from "./ui/trouble";

export function App() {
  return (
    <div className="mx-auto min-h-dvh max-w-[1280px] px-4 pb-24 sm:px-8">
      <TopBar />
      <Routes>
        <Route path="/" element={<Board />} />
        <Route path="/new" element={<NewJob />} />
        <Route path="/jobs/:jobId" element={<JobFrame />}>
          <Route index element={<Call />} />
          <Route path="story" element={<Story />} />
          <Route path="hands" element={<Hands />} />
          <Route path="spin" element={<Spin />} />
          <Route path="call" element={<Call />} />
        </Route>
        <Route path="*" element={<Trouble title="There is no such page." next="Go back to the board." />} />
      </Routes>
    </div>
  );
}
