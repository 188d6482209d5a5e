using System.Xml;
using WarySentinel.Core.Access;

namespace WarySentinel.Core.Gates;

/// <summary>A rotation as people write it.</summary>
/// <param name="Every">How old a password grows: an ISO 8601 duration of a day or more.</param>
/// <param name="Overlap">How long the old one works on; <c>P2D</c> unless said.</param>
/// <param name="Tell">E-mail addresses that the new one is sent to.</param>
public sealed record RotationDraft(string? Every, string? Overlap, IReadOnlyList<string>? Tell)
{
    private static readonly TimeSpan UsualOverlap = TimeSpan.FromDays(2);

    /// <summary>The draft that says what a rotation says; null for none.</summary>
    public static RotationDraft? Of(Rotation? rotation) =>
        rotation is null ? null : new(XmlConvert.ToString(rotation.Every), XmlConvert.ToString(rotation.Overlap), rotation.Tell);

    /// <summary>Reads the draft; null where it says nothing, or when faults were told.</summary>
    public Rotation? Read(Action<string, string, object?[]> bad)
    {
        if (string.IsNullOrWhiteSpace(Every))
        {
            return null;
        }

        var good = true;
        void Bad(string field, string code, params object?[] values)
        {
            good = false;
            bad(field, code, values);
        }

        if (!GateReader.TryDuration(Every, TimeSpan.FromDays(1), out var every))
        {
            Bad("rotation.every", "rotation-every", Every);
        }

        var overlap = UsualOverlap;
        if (!string.IsNullOrWhiteSpace(Overlap) && !GateReader.TryDuration(Overlap, TimeSpan.Zero, out overlap))
        {
            Bad("rotation.overlap", "rotation-overlap", Overlap);
        }
        else if (good && overlap > every)
        {
            Bad("rotation.overlap", "rotation-overlap-long");
        }

        var tell = ReadTell(typed => Bad("rotation.tell", "email-form", typed));
        if (good && tell.Count is 0 or > Rotation.MostTold)
        {
            Bad("rotation.tell", "rotation-tell", Rotation.MostTold);
        }

        return good ? new Rotation(every, overlap, [.. tell.Distinct()]) : null;
    }

    private List<string> ReadTell(Action<string> bad)
    {
        var tell = new List<string>();
        foreach (var typed in Tell ?? [])
        {
            if (EmailAddress.Normalise(typed) is { } email)
            {
                tell.Add(email);
            }
            else
            {
                bad(typed);
            }
        }

        return tell;
    }
}
