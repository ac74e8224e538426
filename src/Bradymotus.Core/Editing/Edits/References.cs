using System.Collections.Immutable;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;

namespace Bradymotus.Core.Editing;

/// <summary>The ids that nodes refer to, beside their parents.</summary>
public static class References
{
    /// <summary>A node that refers to others by their new ids, where there are new ones.</summary>
    public static Node Mapped(Node node, IReadOnlyDictionary<string, string> ids)
    {
        string To(string id) => ids.GetValueOrDefault(id, id);
        node = node.Follows is { } leader && ids.ContainsKey(leader) ? node with { Follows = To(leader) } : node;
        return node switch
        {
            InstanceNode instance when ids.ContainsKey(instance.Of) => instance with { Of = To(instance.Of) },
            RepeatNode { Step: { } step } repeat when ids.ContainsKey(step) => repeat with { Step = To(step) },
            MeshNode mesh when mesh.Deformers.OfType<SkinDeformer>().Any(s => s.Joints.Any(ids.ContainsKey)) => mesh with
            {
                Deformers = [.. mesh.Deformers.Select(d => d is SkinDeformer skin ? skin with { Joints = [.. skin.Joints.Select(To)] } : d)],
            },
            _ => node,
        };
    }
}
