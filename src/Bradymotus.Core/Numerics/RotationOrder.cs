using System.Text.Json.Serialization;

namespace Bradymotus.Core.Numerics;

/// <summary>
/// How a rotation is said: as three turns in the order in which they are applied, about fixed axes (<c>xyz</c> turns about X first, Z last, the
/// matrix Rz·Ry·Rx), or as a quaternion.
/// </summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<RotationOrder>))]
public enum RotationOrder
{
    /// <summary>About X, then Y, then Z.</summary>
    Xyz,
    /// <summary>About X, then Z, then Y.</summary>
    Xzy,
    /// <summary>About Y, then X, then Z.</summary>
    Yxz,
    /// <summary>About Y, then Z, then X.</summary>
    Yzx,
    /// <summary>About Z, then X, then Y.</summary>
    Zxy,
    /// <summary>About Z, then Y, then X.</summary>
    Zyx,

    /// <summary>Four numbers in place of three angles; linear segments on all four go the shortest way at even speed.</summary>
    Quaternion,
}
