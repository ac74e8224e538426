using System.Text.Json.Serialization;

namespace Bradymotus.Core.Numerics;

/// <summary>The order in which the three turns are applied, about fixed axes: <c>xyz</c> turns about X first, Z last (the matrix Rz·Ry·Rx).</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<RotationOrder>))]
public enum RotationOrder
{
    Xyz,
    Xzy,
    Yxz,
    Yzx,
    Zxy,
    Zyx,
}
