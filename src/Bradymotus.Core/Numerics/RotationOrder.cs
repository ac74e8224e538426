using System.Text.Json.Serialization;

namespace Bradymotus.Core.Numerics;

/// <summary>
/// How a rotation is said: as three turns in the order in which they are applied, about fixed axes (<c>xyz</c> turns about X first, Z last, the
/// matrix Rz·Ry·Rx), or as a quaternion.
/// </summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<RotationOrder>))]
public enum RotationOrder
{
    Xyz,
    Xzy,
    Yxz,
    Yzx,
    Zxy,
    Zyx,

    /// <summary>Four numbers in place of three angles; linear segments on all four go the shortest way at even speed.</summary>
    Quaternion,
}
