using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Scene;

/// <summary>What the channels of a camera say about how it sees, on one frame.</summary>
/// <param name="Angle">The vertical field of view, in degrees; for a perspective camera.</param>
/// <param name="Height">What fits in the height of the picture, in metres; for an orthographic one.</param>
/// <param name="Near">Nothing nearer is seen, in metres along the axis.</param>
/// <param name="Far">Nothing farther is seen, in metres along the axis.</param>
/// <param name="Focus">What is sharp, in metres along the axis.</param>
/// <param name="Aperture">The radius of the opening, in metres; 0 where everything is sharp.</param>
public readonly record struct Lens(double Angle, double Height, double Near, double Far, double Focus, double Aperture)
{
    /// <param name="read">The value of a channel by its path.</param>
    public static Lens Of(CameraNode camera, Func<string, double> read)
    {
        var sensor = Math.Clamp(read("camera.sensor"), 0.1, 1000);
        var (angle, focal) = camera.Lens == LensKind.Focal
            ? (AngleOf(read("camera.focal"), sensor), read("camera.focal"))
            : (Math.Clamp(read("camera.fov"), 1, 170), FocalLength(read("camera.fov"), sensor));
        var stop = read("camera.fstop");
        var near = Math.Max(1e-4, read("camera.near"));
        return new(angle, Math.Max(1e-6, read("camera.height")), near, Math.Max(near, read("camera.far")), Math.Max(1e-3, read("camera.focus")),
            stop > 0 && camera.Projection == Projection.Perspective ? Math.Clamp(focal, 0.1, 10_000) / stop / 2000 : 0);
    }

    /// <summary>The vertical field of view of a lens: 2·atan(h / 2f), as every textbook of optics has it.</summary>
    /// <param name="focal">Focal length, in millimetres.</param>
    /// <param name="sensor">The height of the sensor, in millimetres.</param>
    public static double AngleOf(double focal, double sensor) => Math.Clamp(2 * Real.Atan2Degrees(sensor, 2 * Math.Max(0.1, focal)), 1, 170);

    /// <summary>The other way round.</summary>
    public static double FocalLength(double angle, double sensor) => sensor / (2 * Real.TanDegrees(Math.Clamp(angle, 1, 170) / 2));
}
