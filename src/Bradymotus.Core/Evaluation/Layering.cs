using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Evaluation;

/// <summary>How one number is laid over another, and how what lies below is found from what comes of both.</summary>
internal static class Layering
{
    /// <summary>What comes of a number below and one of a layer.</summary>
    internal static double Lay(double below, double own, double weight, bool isOverride) => isOverride ? below + weight * (own - below) : below + weight * own;

    /// <summary>What lies below, so that this comes of it; no number where a layer hides it.</summary>
    internal static double Below(double wanted, double own, double weight, bool isOverride) =>
        isOverride ? (wanted - weight * own) / (1 - weight) : wanted - weight * own;

    /// <summary>What the layer has to have, so that this comes of it; no number where it has no weight.</summary>
    internal static double Own(double wanted, double below, double weight, bool isOverride) => isOverride ? below + (wanted - below) / weight : (wanted - below) / weight;
}

/// <summary>
/// A rotation with layers laid over it. A layer that adds turns what is below it in its own axes, R·Rₗ: with angles by its angles times its
/// weight, with quaternions along the way from no turn to its turn. One that takes the place goes angle by angle, or along the way between both quaternions.
/// </summary>
internal ref struct TurnSum
{
    private readonly RotationOrder _order;
    private readonly Span<double> _values;
    // The rotation so far where it is not that of the angles, which then are what its own shall be nearest to.
    private Affine _turned;
    private bool _isTurned;

    /// <param name="order">Of the angles.</param>
    /// <param name="values">What lies below; at the end what comes of it all.</param>
    internal TurnSum(RotationOrder order, Span<double> values)
    {
        _order = order;
        _values = values;
    }

    /// <param name="own">The numbers of the layer.</param>
    /// <param name="isSet">A bit for each angle that it has.</param>
    internal void Lay(scoped ReadOnlySpan<double> own, int isSet, double weight, bool isOverride)
    {
        if (weight == 0)
        {
            return;
        }
        if (_order == RotationOrder.Quaternion)
        {
            // A number of a quaternion says nothing alone: a layer that has one of them has them all.
            var (below, layer) = (new Quaternion(_values[0], _values[1], _values[2], _values[3]), new Quaternion(own[0], own[1], own[2], own[3]));
            var q = isOverride ? Quaternion.Slerp(below, layer, weight) : below.Normalized() * Quaternion.Slerp(Quaternion.Identity, layer, weight);
            // Of the two that are the same rotation the one that is nearer to what was, so that numbers do not jump.
            q = Quaternion.Dot(q, below) < 0 && isOverride ? -q : q;
            (_values[0], _values[1], _values[2], _values[3]) = (q.X, q.Y, q.Z, q.W);
            return;
        }
        if (isOverride)
        {
            Finish();
            for (var i = 0; i < 3; i++)
            {
                if ((isSet & (1 << i)) != 0)
                {
                    _values[i] = Layering.Lay(_values[i], own[i], weight, true);
                }
            }
            return;
        }
        var by = new Double3(weight * own[0], weight * own[1], weight * own[2]);
        if (by == Double3.Zero)
        {
            return;
        }
        // About one axis angles simply add up.
        if (_isTurned || !IsOneAxis(by))
        {
            if (!_isTurned)
            {
                _turned = Affine.Rotation(new(_values[0], _values[1], _values[2]), _order);
                _isTurned = true;
            }
            // The last turn of the order stands first in the product.
            var (first, second, third, _) = Euler.Axes(_order);
            Turn(third, by);
            Turn(second, by);
            Turn(first, by);
        }
        (_values[0], _values[1], _values[2]) = (_values[0] + by.X, _values[1] + by.Y, _values[2] + by.Z);
    }

    /// <summary>Turns about one of its own axes: the two columns beside it take from each other.</summary>
    private void Turn(int axis, Double3 by)
    {
        var angle = axis == 0 ? by.X : axis == 1 ? by.Y : by.Z;
        if (angle == 0)
        {
            return;
        }
        var (s, c) = Real.SinCosDegrees(angle);
        var (x, y, z) = (_turned.X, _turned.Y, _turned.Z);
        _turned = axis switch
        {
            0 => new(x, y * c + z * s, z * c - y * s, default),
            1 => new(x * c - z * s, y, z * c + x * s, default),
            _ => new(x * c + y * s, y * c - x * s, z, default),
        };
    }

    private readonly bool IsOneAxis(Double3 by) =>
        (_values[0] == 0 && by.X == 0 ? 1 : 0) + (_values[1] == 0 && by.Y == 0 ? 1 : 0) + (_values[2] == 0 && by.Z == 0 ? 1 : 0) >= 2;

    /// <summary>Leaves in the values what comes of everything so far.</summary>
    internal void Finish()
    {
        if (_isTurned)
        {
            var angles = Euler.From(_turned, _order, new(_values[0], _values[1], _values[2]));
            (_values[0], _values[1], _values[2]) = (angles.X, angles.Y, angles.Z);
            _isTurned = false;
        }
    }
}
