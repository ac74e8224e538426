using System.Numerics;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using SharpGLTF.Schema2;

namespace Bradymotus.Formats.Gltf;

/// <summary>What an animation moves beside nodes, by the names that KHR_animation_pointer gives to numbers of a file: materials, cameras, lights.</summary>
internal sealed class GltfPointers(FrameRate rate)
{
    private readonly Dictionary<string, AnimationChannel> _channels = [];
    private readonly HashSet<string> _taken = [];

    internal void Add(AnimationChannel channel) => _channels.TryAdd(channel.TargetPointerPath, channel);

    internal bool Has(string pointer) => _channels.ContainsKey(pointer);

    /// <summary>What nobody has asked for.</summary>
    internal IEnumerable<string> Left => _channels.Keys.Where(p => !_taken.Contains(p));

    /// <summary>Gives channels the keys of a number, or of the parts of a colour or place.</summary>
    /// <param name="into">For each part its channel, null for none, and by how much it is multiplied.</param>
    internal void Key(Dictionary<string, Channel> channels, string pointer, params (string? Path, double Factor)[] into)
    {
        if (!_channels.TryGetValue(pointer, out var channel))
        {
            return;
        }
        void Put(double[] to, ReadOnlySpan<float> from)
        {
            for (var i = 0; i < into.Length && i < from.Length; i++)
            {
                to[i] = from[i] * into[i].Factor;
            }
        }
        Curve[]? Read<T>(Action<T, double[]> numbers) => channel.GetSamplerOrNull<T>() is { } sampler ? GltfCurves.Read(sampler, rate, into.Length, numbers) : null;
        var curves = into.Length switch
        {
            1 => Read<float>((v, to) => Put(to, [v])),
            2 => Read<Vector2>((v, to) => Put(to, [v.X, v.Y])),
            3 => Read<Vector3>((v, to) => Put(to, [v.X, v.Y, v.Z])),
            _ => Read<Vector4>((v, to) => Put(to, [v.X, v.Y, v.Z, v.W])),
        };
        if (curves is null)
        {
            return;
        }
        _taken.Add(pointer);
        for (var i = 0; i < into.Length; i++)
        {
            if (into[i].Path is { } path)
            {
                channels[path] = new Channel(channels.GetValueOrDefault(path)?.Value ?? curves[i].Keys[0].Value, curves[i]);
            }
        }
    }
}
