/* Made by Kairotic 0.1.0 from dome.toml (SHA-256 69bbe548bd2fc1f1...).
   Again by: kairotic emit dome.toml --to generated --as c
   What is changed here by hand is lost then. All that follows: SHA-256 d831bd4c3f0a95c1... */
#ifndef DOME_OPENS_H
#define DOME_OPENS_H

#include <stdbool.h>
#include <stdint.h>

/* opens: 15 s. */

/* Begins the sequence. */
void dome_opens_begin(void);

/* Whether every signal has its last compare value, and keeps it. */
bool dome_opens_is_over(void);

/* The compare value of the next period of stm32f411/tim3/2. */
uint16_t dome_opens_dome_next(void);

/* The compare value of the next period of stm32f411/tim3/1. */
uint16_t dome_opens_shutter_next(void);

/* The compare value of the next period of stm32f411/tim1/1. */
uint16_t dome_opens_vent_next(void);

/* slit goes from 0 deg to 85 deg: it begins at 5 s of the sequence. */

/* 3175 steps in 15836571 ticks of 72.9167 ns.
   No edge is more than 0.9258 ticks off the ideal: all of them were looked at. */

/* Begins the move. */
void dome_opens_slit_begin(void);

/* Ticks to the next step, from the start or from the step before; 0 when there is none. */
uint32_t dome_opens_slit_next(void);

#endif
