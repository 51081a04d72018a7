import { useCallback } from "react";
import { useNavigate } from "react-router";
import { searchNow } from "../ui/use-search-parts.ts";
import { addressWithWindow } from "./time-window.ts";

/** Goes to an address inside the application; the window comes along unless the address has its own. */
export function useGo(): (address: string) => void {
  const navigate = useNavigate();
  return useCallback((address: string) => void navigate(addressWithWindow(address, searchNow())), [navigate]);
}
