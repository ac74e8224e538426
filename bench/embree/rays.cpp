// The same rays against Embree 3 or 4 (single-ray queries, one thread), for the ratio in ./bradymotus bench.
#if __has_include(<embree4/rtcore.h>)
#include <embree4/rtcore.h>
#else
#include <embree3/rtcore.h>
#endif
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <limits>
#include <vector>

int main(int, char** argv)
{
    FILE* f = fopen(argv[1], "rb");
    int head[3];
    if (!f || fread(head, 4, 3, f) != 3) return 1;
    auto [vertices, triangles, count] = head;
    RTCDevice device = rtcNewDevice("threads=1");
    RTCScene scene = rtcNewScene(device);
    rtcSetSceneBuildQuality(scene, RTC_BUILD_QUALITY_HIGH);
    RTCGeometry mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    void* positions = rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, vertices);
    void* indices = rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, triangles);
    if (fread(positions, 12, vertices, f) != size_t(vertices) || fread(indices, 12, triangles, f) != size_t(triangles)) return 1;
    std::vector<float> data(6 * size_t(count));
    if (fread(data.data(), 24, count, f) != size_t(count)) return 1;
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(scene, mesh);
    rtcCommitScene(scene);
    std::vector<double> rates;
    long hits = 0;
    double sum = 0;
    for (int round = 0; round < 7; round++) {
        hits = 0;
        sum = 0;
        auto start = std::chrono::steady_clock::now();
        for (int i = 0; i < count; i++) {
            const float* d = &data[6 * size_t(i)];
            RTCRayHit r{};
            r.ray.org_x = d[0]; r.ray.org_y = d[1]; r.ray.org_z = d[2];
            r.ray.dir_x = d[3]; r.ray.dir_y = d[4]; r.ray.dir_z = d[5];
            r.ray.tfar = std::numeric_limits<float>::infinity();
            r.ray.mask = ~0u;
            r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
#if RTC_VERSION_MAJOR >= 4
            rtcIntersect1(scene, &r);
#else
            RTCIntersectContext context;
            rtcInitIntersectContext(&context);
            rtcIntersect1(scene, &context, &r);
#endif
            if (r.hit.geomID != RTC_INVALID_GEOMETRY_ID) { hits++; sum += r.ray.tfar; }
        }
        rates.push_back(count / std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    std::sort(rates.begin(), rates.end());
    printf("{\"name\":\"hits\",\"value\":%ld}\n{\"name\":\"sum of distances\",\"value\":%.9g}\n{\"name\":\"rays per second\",\"value\":%.9g}\n", hits, sum, rates[rates.size() / 2]);
}
