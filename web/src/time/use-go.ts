import { useCallback } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { addressWithWindow } from "./time-window.ts";

/** Goes to an address inside the application; the window comes along unless the address has its own. */
export function useGo(): (address: string) => void {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  return useCallback((address: string) => void navigate(addressWithWindow(address, search)), [navigate, search]);
}
