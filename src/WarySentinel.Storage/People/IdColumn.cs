using System.Buffers;
using System.Data.Common;

namespace WarySentinel.Storage.People;

/// <summary>
/// A column of PostgreSQL that carries many ids in one value, as <c>string_agg(uuid_send(id), '')</c> makes it: far cheaper than a row for each.
/// </summary>
internal static class IdColumn
{
    private const int IdLength = 16;
    private const int IdsAtOnce = 2_000;

    /// <summary>Reads the ids one after another, a buffer at a time however many they are; none where the value is null.</summary>
    /// <param name="reader">A reader at a row, opened for sequential access.</param>
    /// <param name="column">The column, which has not been read yet.</param>
    /// <param name="expect">Hears how many are coming, before the first.</param>
    /// <param name="take">Takes each id.</param>
    /// <param name="stop">Cancels.</param>
    public static async Task EachAsync(DbDataReader reader, int column, Action<int>? expect, Action<Guid> take, CancellationToken stop)
    {
        if (await reader.IsDBNullAsync(column, stop))
        {
            return;
        }

        await using var ids = reader.GetStream(column);
        expect?.Invoke((int)(ids.Length / IdLength));
        var buffer = ArrayPool<byte>.Shared.Rent(IdLength * IdsAtOnce);
        try
        {
            int length;
            while ((length = await ids.ReadAtLeastAsync(buffer.AsMemory(0, IdLength * IdsAtOnce), IdLength * IdsAtOnce, false, stop)) > 0)
            {
                for (var at = 0; at + IdLength <= length; at += IdLength)
                {
                    take(new Guid(buffer.AsSpan(at, IdLength), bigEndian: true));
                }
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }
}
