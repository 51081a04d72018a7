/** Common passwords of twelve characters and more, lower case (from memory of published lists of leaked passwords). Shorter ones are refused by their length. */
export const commonPasswords: ReadonlySet<string> = new Set(
  `123456789012 1234567890123 12345678901234 123456789123 1234567891011 123123123123 111111111111 000000000000 012345678901
   qwertyuiop12 qwertyuiop123 qwertyuiop[] qwerty123456 qwerty1234567 qwertyuiopas qwertyuiopasdfghjkl qwertyqwerty qwerty12345678 1q2w3e4r5t6y 1q2w3e4r5t6y7u 1qaz2wsx3edc 1qaz2wsx3edc4rfv zaq12wsxcde3 q1w2e3r4t5y6
   asdfghjkl123 asdfghjklzxc zxcvbnm12345 zxcvbnmasdfghjkl abcdefghijkl abcdefghijklm abcd12345678 abc123456789 abcdef123456 a1b2c3d4e5f6
   password1234 password12345 password123456 password1234567 passwordpassword password123! password2024 password2025 password2026 passw0rd1234 p@ssw0rd1234 p@ssword1234 mypassword123 newpassword1 changeme1234 changemenow! changeme12345
   administrator administrator1 admin1234567 admin12345678 adminadmin12 adminadminadmin rootrootroot letmein12345 letmeinletmein welcome12345 welcome123456 welcome2025! welcome2026! iloveyou1234 iloveyouforever
   monitoring123 monitoring1234 nubrelnubrel nubrel123456 secretsecret secret123456 testtesttest test12345678 temporary123 default12345 guestguestguest homeassistant raspberrypi1 raspberrypi123
   correcthorsebatterystaple trustno1trustno1 superman1234 football1234 baseball1234 princess1234 sunshine1234 dragon123456 dragondragon master123456 michael12345 computer1234 internet1234 liverpool123 manchester12 chelsea12345`
    .trim()
    .split(/\s+/),
);
