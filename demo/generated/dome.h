/* Made by Kairotic 0.1.0 from dome.toml (SHA-256 69bbe548bd2fc1f1...).
   Again by: kairotic emit dome.toml --to generated --as c
   What is changed here by hand is lost then. All that follows: SHA-256 8518ce39092b2883... */
#ifndef DOME_H
#define DOME_H

#include <stdint.h>

/* shutter: stm32f411/tim3/1 on PA6, 50 Hz from 96 MHz, active 1.35 ms a period */
#define DOME_SHUTTER_TOP 63999UL
#define DOME_SHUTTER_TICKS 64000UL
#define DOME_SHUTTER_COMPARE 4320UL
#define DOME_SHUTTER_COMPARE_LOWEST 2880UL
#define DOME_SHUTTER_COMPARE_HIGHEST 6720UL
/* Levels are in 0.01 deg. */
#define DOME_SHUTTER_LEVELS_PER_UNIT 100
#define DOME_SHUTTER_LEVEL_LOWEST (0)
#define DOME_SHUTTER_LEVEL_HIGHEST 12000

/* dome: stm32f411/tim3/2 on PA7, 50 Hz from 96 MHz, active 1.325 ms a period */
#define DOME_DOME_TOP 63999UL
#define DOME_DOME_TICKS 64000UL
#define DOME_DOME_COMPARE 4240UL
#define DOME_DOME_COMPARE_LOWEST 3200UL
#define DOME_DOME_COMPARE_HIGHEST 6400UL
/* Levels are in 0.01 %. */
#define DOME_DOME_LEVELS_PER_UNIT 100
#define DOME_DOME_LEVEL_LOWEST (-10000)
#define DOME_DOME_LEVEL_HIGHEST 10000

/* vent: stm32f411/tim1/1 on PA8, 19.2 kHz from 96 MHz, active 14.6354 us a period */
#define DOME_VENT_TOP 4999UL
#define DOME_VENT_TICKS 5000UL
#define DOME_VENT_COMPARE 1405UL
#define DOME_VENT_COMPARE_LOWEST 700UL
#define DOME_VENT_COMPARE_HIGHEST 1875UL
/* Levels are in 0.01 %. */
#define DOME_VENT_LEVELS_PER_UNIT 100
#define DOME_VENT_LEVEL_LOWEST (0)
#define DOME_VENT_LEVEL_HIGHEST 10000

/* flat-field: stm32f411/tim2/1 on PA5, 1 kHz from 96 MHz, active 44.1562 us a period */
#define DOME_FLAT_FIELD_TOP 95999UL
#define DOME_FLAT_FIELD_TICKS 96000UL
#define DOME_FLAT_FIELD_COMPARE 4239UL
#define DOME_FLAT_FIELD_COMPARE_LOWEST 0UL
#define DOME_FLAT_FIELD_COMPARE_HIGHEST 96000UL
/* Levels are in 1 %. */
#define DOME_FLAT_FIELD_LEVELS_PER_UNIT 1
#define DOME_FLAT_FIELD_LEVEL_LOWEST (0)
#define DOME_FLAT_FIELD_LEVEL_HIGHEST 100

/* dew-heater: stm32f411/tim4/1 on PB6, 500 mHz from 96 MHz, active 750 ms a period */
#define DOME_DEW_HEATER_TOP 63999UL
#define DOME_DEW_HEATER_TICKS 64000UL
#define DOME_DEW_HEATER_COMPARE 24000UL
#define DOME_DEW_HEATER_COMPARE_LOWEST 0UL
#define DOME_DEW_HEATER_COMPARE_HIGHEST 64000UL
/* Levels are in 0.001 W. */
#define DOME_DEW_HEATER_LEVELS_PER_UNIT 1000
#define DOME_DEW_HEATER_LEVEL_LOWEST (0)
#define DOME_DEW_HEATER_LEVEL_HIGHEST 8000

/* camera-fan: stm32f411/tim5/1 on PA0, 25 kHz from 96 MHz, active 24.9375 us a period */
#define DOME_CAMERA_FAN_TOP 3839UL
#define DOME_CAMERA_FAN_TICKS 3840UL
#define DOME_CAMERA_FAN_COMPARE 2394UL
#define DOME_CAMERA_FAN_COMPARE_LOWEST 0UL
#define DOME_CAMERA_FAN_COMPARE_HIGHEST 3840UL
/* Levels are in 1 %. */
#define DOME_CAMERA_FAN_LEVELS_PER_UNIT 1
#define DOME_CAMERA_FAN_LEVEL_LOWEST (0)
#define DOME_CAMERA_FAN_LEVEL_HIGHEST 100

/* vent: its drive has a second line, for the other direction. That one is left to the firmware. */

/* From reset to moving pins: clocks, gates, pins, values, outputs; the counters start last.
   It waits for ready flags without end. Interrupts have to be off. */
void dome_start(void);

/* Puts the signals to rest: constantly inactive. The counters go on. */
void dome_stop(void);

/* Sets the compare value of shutter; one outside 2880 to 6720 is taken to the nearer end.
   It takes effect when the next period begins. Not to be interrupted by what touches the same timer. */
void dome_shutter_set_compare(uint16_t compare);

/* Sets shutter in 0.01 deg, from 0 to 12000; one outside is taken to the nearer end. */
void dome_shutter_set(int16_t level);

/* Sets the compare value of dome; one outside 3200 to 6400 is taken to the nearer end.
   It takes effect when the next period begins. Not to be interrupted by what touches the same timer. */
void dome_dome_set_compare(uint16_t compare);

/* Sets dome in 0.01 %, from -10000 to 10000; one outside is taken to the nearer end. */
void dome_dome_set(int16_t level);

/* Sets the compare value of vent; one outside 700 to 1875 is taken to the nearer end.
   It takes effect when the next period begins. Not to be interrupted by what touches the same timer. */
void dome_vent_set_compare(uint16_t compare);

/* Sets vent in 0.01 %, from 0 to 10000; one outside is taken to the nearer end.
   At 0 the output is constantly inactive. */
void dome_vent_set(int16_t level);

/* Sets the compare value of flat-field; one outside 0 to 96000 is taken to the nearer end.
   It takes effect when the next period begins. Not to be interrupted by what touches the same timer. */
void dome_flat_field_set_compare(uint32_t compare);

/* Sets flat-field in 1 %, from 0 to 100; one outside is taken to the nearer end. */
void dome_flat_field_set(int16_t level);

/* Sets the compare value of dew-heater; one outside 0 to 64000 is taken to the nearer end.
   It takes effect when the next period begins. Not to be interrupted by what touches the same timer. */
void dome_dew_heater_set_compare(uint16_t compare);

/* Sets dew-heater in 0.001 W, from 0 to 8000; one outside is taken to the nearer end. */
void dome_dew_heater_set(int16_t level);

/* Sets the compare value of camera-fan; one outside 768 to 3840 is taken to the nearer end.
   It takes effect when the next period begins. Not to be interrupted by what touches the same timer. */
void dome_camera_fan_set_compare(uint32_t compare);

/* Sets camera-fan in 1 %, from 0 to 100; one outside is taken to the nearer end.
   At 0 the output is constantly inactive. */
void dome_camera_fan_set(int16_t level);

/* New compare values of shutter and dome wait from here on, until dome_tim3_release().
   They then take effect together, at the next update. */
void dome_tim3_hold(void);
void dome_tim3_release(void);

#endif /* DOME_H */
