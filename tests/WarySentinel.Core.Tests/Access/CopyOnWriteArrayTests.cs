using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;

namespace WarySentinel.Core.Tests.Access;

public sealed class CopyOnWriteArrayTests
{
    [Property(MaxTest = 60)]
    public void A_row_of_copies_reads_as_plain_arrays_do_and_no_earlier_one_changes(int seed)
    {
        var random = new Random(seed);
        var count = random.Next(1, 3_500);
        var (made, plain) = (new List<CopyOnWriteArray<string>> { new(count) }, new List<string?[]> { new string?[count] });
        for (var copy = 0; copy < 6; copy++)
        {
            for (var write = random.Next(40); write >= 0; write--)
            {
                var place = random.Next(count);
                made[^1][place] = plain[^1][place] = $"{copy} {write}";
            }

            made.Add(new CopyOnWriteArray<string>(made[^1]));
            plain.Add([.. plain[^1]]);
        }

        for (var copy = 0; copy < made.Count; copy++)
        {
            Enumerable.Range(0, count).Select(place => made[copy][place]).ShouldBe(plain[copy]);
        }
    }
}
