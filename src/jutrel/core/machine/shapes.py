"""The dimensions [m] that a drawing is made from, one set for each family.

Frame: origin at the machine's middle (the slewing axis of an excavator), x forward,
y left, z up. Heights are above the ground. Every machine is drawn as it parks.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ExcavatorShape:
    """A crawler excavator, boom forward, bucket on the ground."""

    track_length: float
    track_gauge: float
    track_height: float
    shoe_width: float
    upper_width: float
    upper_height: float
    tail_radius: float
    upper_front: float
    cab_length: float
    cab_width: float
    cab_height: float
    boom_foot_x: float
    boom_width: float
    boom_top: float
    boom_reach: float
    arm_reach: float
    bucket_width: float
    bucket_length: float
    bucket_teeth: int


@dataclass(frozen=True, slots=True)
class WheelLoaderShape:
    """A wheel loader, straight, bucket on the ground. The joint is the origin."""

    wheelbase: float
    gauge: float
    tyre_diameter: float
    tyre_width: float
    rear_overhang: float
    rear_width: float
    rear_height: float
    cab_length: float
    cab_width: float
    cab_height: float
    deck_height: float
    frame_width: float
    arm_reach: float
    arm_gap: float
    arm_top: float
    bucket_width: float
    bucket_length: float
    bucket_height: float
    bucket_teeth: int


@dataclass(frozen=True, slots=True)
class DozerShape:
    """A crawler dozer, blade and ripper on the ground."""

    track_length: float
    track_gauge: float
    track_height: float
    shoe_width: float
    hood_front: float
    hood_width: float
    hood_height: float
    cab_back: float
    cab_length: float
    cab_width: float
    cab_height: float
    deck_height: float
    blade_x: float
    blade_width: float
    blade_height: float
    ripper_reach: float
    ripper_width: float
    ripper_shanks: int


@dataclass(frozen=True, slots=True)
class ArticulatedHaulerShape:
    """An articulated hauler with three axles, straight, body down."""

    front_axle_x: float
    bogie_x: float
    bogie_spacing: float
    gauge: float
    tyre_diameter: float
    tyre_width: float
    nose_x: float
    joint_x: float
    hood_width: float
    hood_height: float
    cab_front: float
    cab_length: float
    cab_width: float
    cab_height: float
    deck_height: float
    body_front: float
    body_length: float
    body_width: float
    body_height: float


@dataclass(frozen=True, slots=True)
class RigidHaulerShape:
    """A rigid hauler with two axles, duals behind, body down, canopy over the deck."""

    front_axle_x: float
    rear_axle_x: float
    front_gauge: float
    rear_gauge: float
    dual_gap: float
    tyre_diameter: float
    tyre_width: float
    nose_x: float
    deck_back: float
    deck_width: float
    deck_height: float
    cab_front: float
    cab_length: float
    cab_width: float
    cab_height: float
    body_length: float
    body_width: float
    body_height: float
    canopy_length: float


@dataclass(frozen=True, slots=True)
class MotorGraderShape:
    """A motor grader, straight, blade and ripper on the ground."""

    front_axle_x: float
    tandem_x: float
    tandem_spacing: float
    gauge: float
    tyre_diameter: float
    tyre_width: float
    nose_x: float
    rear_x: float
    joint_x: float
    frame_width: float
    frame_height: float
    engine_width: float
    engine_height: float
    cab_front: float
    cab_length: float
    cab_width: float
    cab_height: float
    deck_height: float
    blade_x: float
    blade_length: float
    blade_height: float
    blade_angle_deg: float
    ripper_reach: float


MachineShape = (
    ExcavatorShape | WheelLoaderShape | DozerShape | ArticulatedHaulerShape | RigidHaulerShape | MotorGraderShape
)
